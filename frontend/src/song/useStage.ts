/** Which stage one is in: kept for the session, song by song. */
import { useSessionStorage } from '@vueuse/core'

export type StageId = 'listen' | 'form' | 'review' | 'grooves' | 'fills' | 'feel' | 'chart' | 'practice'

/** Where a guest is: what a link opens is the chart and the player. */
export const FOR_GUESTS: readonly StageId[] = ['chart', 'practice']

export function useStage(songId: string, isGuest = false) {
  const first = isGuest ? 'chart' : 'grooves'
  const stage = useSessionStorage<StageId>(`orchesis.stage.${songId}${isGuest ? '.guest' : ''}`, first)
  const go = (to: StageId) => void (stage.value = to)
  return { stage, go }
}
