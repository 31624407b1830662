// A script of its own that the page of a shot names first: the workers and the shot load before React and all that hangs on it.
import { prepareWorkers } from './workers'

prepareWorkers(/^\/shot\/([\w-]+)/.exec(location.pathname)?.[1])
