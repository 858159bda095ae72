/** Tapping along: each tap is the moment of the song that sounds then. */
import { computed, ref } from 'vue'
import { tapTempo } from './scales'

export const FEWEST_TAPS = 4

export function useTaps(now: () => number, send: (taps: number[], beatsABar: number) => Promise<boolean>) {
  const taps = ref<number[]>([])
  const isOpen = ref(false)
  const beatsABar = ref(4)
  const tempo = computed(() => tapTempo(taps.value))

  function tap(): void {
    const time = now()
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
