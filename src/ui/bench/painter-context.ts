import { createContext } from 'react'
import type { Painter } from './painter'

/** The painter of the bench around a part of the page. */
export const PainterContext = createContext<Painter | null>(null)
