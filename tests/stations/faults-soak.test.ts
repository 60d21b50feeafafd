import { describePulledPlugs, type Plug } from './pulled-plugs'

describePulledPlugs(300, [...'RRRFFFMMMAA000111222'] as Plug[])
