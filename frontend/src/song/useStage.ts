/** Which stage one is in: kept for the session, song by song. */
import { useSessionStorage } from '@vueuse/core'

export type StageId = 'listen' | 'form' | 'grooves' | 'fills' | 'feel' | 'chart' | 'practice'

export function useStage(songId: string) {
  const stage = useSessionStorage<StageId>(`orchesis.stage.${songId}`, 'grooves')
  const go = (to: StageId) => void (stage.value = to)
  return { stage, go }
}
