import { describePulledPlugs, type Plug } from './pulled-plugs'

describePulledPlugs(300, [...'RRRRFFFMMMM000111222'] as Plug[])
