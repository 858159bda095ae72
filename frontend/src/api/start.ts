/** Imported before anything else: asking begins while the rest of the application is still being read. */
import { askEarly } from './early'

askEarly(location.pathname)
// The page itself comes along too, not after it is known who is signed in.
if (location.pathname.startsWith('/songs/')) void import('../song/SongPage.vue')
