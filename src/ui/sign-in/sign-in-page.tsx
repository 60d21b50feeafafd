'use client'

import { Button, Form, Input } from 'antd'
import { type ReactNode, useState } from 'react'
import { routes } from '@/contract/routes'
import { call } from '../api/client'
import { Mark } from '../shell/mark'
import styles from './sign-in.module.css'

/** Asks for the passphrase when Copper Loop is reached from another machine. */
export function SignInPage(): ReactNode {
  const [problem, setProblem] = useState<string>()
  const [busy, setBusy] = useState(false)
  const enter = async ({ passphrase }: { passphrase: string }): Promise<void> => {
    setBusy(true)
    try {
      await call(routes.signIn, { body: { passphrase } })
      // Everything begins anew, with the session.
      window.location.assign('/bench')
    } catch (error) {
      setProblem(error instanceof Error ? error.message : String(error))
      setBusy(false)
    }
  }
  return (
    <div className={styles.place}>
      <Form className={styles.form} layout="vertical" onFinish={enter}>
        <h1>
          <Mark /> Copper Loop
        </h1>
        <Form.Item
          label="Passphrase"
          name="passphrase"
          validateStatus={problem ? 'error' : undefined}
          help={problem ?? 'As it was set where Copper Loop was started.'}
        >
          <Input.Password autoFocus autoComplete="current-password" maxLength={500} />
        </Form.Item>
        <Button type="primary" htmlType="submit" block loading={busy}>
          Sign in
        </Button>
      </Form>
    </div>
  )
}
