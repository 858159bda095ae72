/** Who else has this song open, at which bar: said and asked every few seconds while the page is in sight. */
import { useDocumentVisibility, useIntervalFn } from '@vueuse/core'
import { ref, watch } from 'vue'
import { api, taken } from '@/api/client'

const EVERY_MS = 8000

export function usePresence(songId: string, bar: () => number, isOn: () => boolean) {
  const others = ref<{ name: string; bar: number }[]>([])
  const visibility = useDocumentVisibility()

  async function tell(): Promise<void> {
    if (!isOn() || visibility.value !== 'visible') return
    try {
      others.value = await taken(api.POST('/api/songs/{song_id}/here', { params: { path: { song_id: songId } }, body: { bar: bar() } }))
    } catch {
      others.value = []
    }
  }

  useIntervalFn(() => void tell(), EVERY_MS)
  watch(isOn, (on) => on && void tell(), { immediate: true })
  return others
}
