/** What a foot can do: any key or MIDI message can be learnt for each act of the player. */
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { computed, onScopeDispose, ref } from 'vue'
import type { PracticePads } from './usePads'

export const ACTS = [
  { id: 'play', name: 'Play or pause' },
  { id: 'next', name: 'Next step' },
  { id: 'faster', name: 'Faster' },
  { id: 'slower', name: 'Slower' },
  { id: 'zoom', name: 'Two beats only' },
] as const
export type ActId = (typeof ACTS)[number]['id']

/** What was learnt: "key F13", or the first two numbers of a MIDI message. */
type Learnt = Partial<Record<ActId, string>>

const midiName = (data: Uint8Array) => `midi ${data[0]} ${data[1]}`
/** A pedal that is let go sends a value of 0: that is not pressed. */
const isPressed = (data: Uint8Array) => (data[2] ?? 1) > 0

export function useControls(pads: PracticePads, acts: Record<ActId, () => void>) {
  const learnt = useLocalStorage<Learnt>('orchesis.pedals', {})
  const learning = ref<ActId | null>(null)

  /** Whether this was what is being learnt, or something that was. */
  function take(name: string): boolean {
    if (learning.value) {
      // One pedal does one thing.
      const others = Object.entries(learnt.value).filter(([, value]) => value !== name)
      learnt.value = { ...(Object.fromEntries(others) as Learnt), [learning.value]: name }
      learning.value = null
      return true
    }
    const act = ACTS.find(({ id }) => learnt.value[id] === name)
    if (act) acts[act.id]()
    return act !== undefined
  }

  useEventListener(
    window,
    'keydown',
    (event: KeyboardEvent) => {
      if (event.repeat || (!learning.value && (event.target as HTMLElement)?.closest?.('input, textarea, [role=combobox]'))) return
      if (learning.value && event.key === 'Escape') learning.value = null
      else if (!take(`key ${event.key}`)) return
      event.preventDefault()
      event.stopImmediatePropagation()
    },
    { capture: true },
  )
  const listen = (data: Uint8Array) => void (isPressed(data) && take(midiName(data)))
  pads.onMidi.add(listen)
  onScopeDispose(() => pads.onMidi.delete(listen))

  return {
    learnt: computed(() => learnt.value),
    learning,
    learn(id: ActId): void {
      learning.value = id
      void pads.openMidi()
    },
    forget(id: ActId): void {
      learnt.value = Object.fromEntries(Object.entries(learnt.value).filter(([name]) => name !== id))
    },
  }
}

export type PracticeControls = ReturnType<typeof useControls>
