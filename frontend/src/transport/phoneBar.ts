/** On a phone ribbon and transport fold into one bar: the page has the room. */
import { useSessionStorage } from '@vueuse/core'

export const isFolded = useSessionStorage('orchesis.phone.folded', true)
