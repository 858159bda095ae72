/** Tapping along: each tap is the moment of the song that sounds then. */
import { computed, ref } from 'vue'
import { tapTempo } from './scales'

export const FEWEST_TAPS = 4

/** placeAt : the place in the song that sounds at a moment of the page's clock. */
export function useTaps(placeAt: (moment: number) => number, send: (taps: number[], beatsABar: number) => Promise<boolean>) {
  const taps = ref<number[]>([])
  const isOpen = ref(false)
  const beatsABar = ref(4)
  const tempo = computed(() => tapTempo(taps.value))

  /** moment : when the key or the finger went down, by the page's clock; a busy page hears of it later. */
  function tap(moment: number): void {
    const time = placeAt(moment)
    const last = taps.value.at(-1)
    // Going back in the song begins anew.
    if (last !== undefined && time <= last) taps.value = []
    taps.value = [...taps.value, time]
  }

  async function lay(): Promise<void> {
    if (taps.value.length < FEWEST_TAPS) return
    if (await send(taps.value, beatsABar.value)) {
      isOpen.value = false
      taps.value = []
    }
  }

  return { taps, isOpen, beatsABar, tempo, tap, lay, clear: () => (taps.value = []) }
}

export type Taps = ReturnType<typeof useTaps>
