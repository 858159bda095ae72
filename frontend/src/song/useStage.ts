/** Which stage one is in. The bar stack and the chart below it are one page that scrolls: two stages. */
import { useSessionStorage } from '@vueuse/core'
import { nextTick, shallowRef } from 'vue'

export type StageId = 'listen' | 'form' | 'grooves' | 'fills' | 'feel' | 'chart'

export function useStage(songId: string) {
  const stage = useSessionStorage<StageId>(`orchesis.stage.${songId}`, 'grooves')
  /** What scrolls, while the stack and the chart are shown. */
  const page = shallowRef<HTMLElement | null>(null)

  function go(to: StageId): void {
    const before = stage.value
    stage.value = to
    if (to !== 'grooves' && to !== 'chart') return
    void nextTick(() => {
      const behavior = before === 'grooves' || before === 'chart' ? 'smooth' : 'instant'
      if (to === 'chart') document.getElementById('chart')?.scrollIntoView({ behavior, block: 'start' })
      else page.value?.scrollTo({ top: 0, behavior })
    })
  }

  /** Which of the two is in sight says which stage one is in. */
  function scrolled(): void {
    const chart = document.getElementById('chart')
    if (!chart || !page.value || page.value.clientHeight === 0) return
    stage.value = chart.offsetTop - page.value.scrollTop < page.value.clientHeight / 2 ? 'chart' : 'grooves'
  }

  return { stage, page, go, scrolled }
}
