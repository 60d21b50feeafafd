'use client'

import { AntdRegistry } from '@ant-design/nextjs-registry'
import { QueryClient, QueryClientProvider } from '@tanstack/react-query'
import { App, ConfigProvider } from 'antd'
import { usePathname } from 'next/navigation'
import { type ReactNode, useEffect, useState, useSyncExternalStore } from 'react'
import { RunFollower } from '../api/run-follower'
import { useThemeStore } from '../theme/theme-store'
import { darkPalette, lightPalette, paletteVariables, themeConfig } from '../theme/tokens'
import { signInPath } from './top-bar'

const darkQuery = '(prefers-color-scheme: dark)'

function useSystem(wanted: string): boolean {
  return useSyncExternalStore(
    (changed) => {
      const query = window.matchMedia(wanted)
      query.addEventListener('change', changed)
      return () => query.removeEventListener('change', changed)
    },
    () => window.matchMedia(wanted).matches,
    () => false,
  )
}

/**
 * Ant Design wraps what is in a provider that changes motion, from then on: once the system has asked for little of it, the whole page
 * would be built anew, and whatever it was about would be lost. Inside of one without motion it is wrapped from the start.
 */
const withoutMotion = { token: { motion: false } }

/** Notices cover no way to anywhere. */
const belowTopBar = 52

/** Theme, queries and the live line to the runner, around every page. */
export function Providers({ children }: { children: ReactNode }): ReactNode {
  const [client] = useState(
    () => new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 5_000, refetchOnWindowFocus: false } } }),
  )
  const pathname = usePathname()
  const choice = useThemeStore((state) => state.choice)
  const systemDark = useSystem(darkQuery)
  const isStill = useSystem('(prefers-reduced-motion: reduce)')
  const dark = choice === 'dark' || (choice === 'system' && systemDark)
  const palette = dark ? darkPalette : lightPalette

  useEffect(() => void useThemeStore.persist.rehydrate(), [])
  useEffect(() => {
    const { style, dataset } = document.documentElement
    dataset.theme = dark ? 'dark' : 'light'
    for (const [name, value] of Object.entries(paletteVariables(palette))) style.setProperty(name, value)
  }, [dark, palette])

  const theme = themeConfig(palette, dark)
  return (
    <AntdRegistry>
      <ConfigProvider theme={withoutMotion}>
        <ConfigProvider theme={{ ...theme, token: { ...theme.token, motion: !isStill } }} wave={{ disabled: true }}>
          <App component={false} message={{ top: belowTopBar }} notification={{ top: belowTopBar, placement: 'topRight' }}>
            <QueryClientProvider client={client}>
              {pathname !== signInPath && <RunFollower />}
              {children}
            </QueryClientProvider>
          </App>
        </ConfigProvider>
      </ConfigProvider>
    </AntdRegistry>
  )
}
