import { describePulledPlugs } from './pulled-plugs'

describePulledPlugs(60, ['R', 'F', 'M', 'A', '0'])
