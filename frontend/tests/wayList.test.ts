/** Stickings of a fill: one is chosen and put into the chart, by mouse or by keyboard alone. */
import { mount } from '@vue/test-utils'
import PrimeVue from 'primevue/config'
import { expect, it, vi } from 'vitest'
import { ref } from 'vue'
import { OPEN_SONG } from '@/song/openSong'
import WayList from '@/stages/fills/WayList.vue'

function listed() {
  const way = (name: string, letters: string) => ({
    name,
    hands: [...letters].map((letter) => ({ letter })),
    costs: 'no doubles',
    closing: '',
  })
  const fill = { family: 'A', kinship: 'first', problems: [], ways: [way('alternating', 'RLRL'), way('doubles', 'RRLL')] }
  const wayIndex = ref(0)
  const fills = { fills: ref([fill]), way: ref(fill.ways[0]), wayIndex, currentWay: ref(0), recommended: () => 0, useWay: vi.fn() }
  const provide = { [OPEN_SONG as symbol]: { fills } }
  const list = mount(WayList, { props: { fill } as never, global: { plugins: [PrimeVue], provide } })
  return { list, fills }
}

it('offers a sticking that is not in the chart in the row where it is chosen', async () => {
  const { list, fills } = listed()
  expect(list.find('[data-test=use-way]').exists()).toBe(false)
  await list.findAll('input')[1]!.setValue()
  expect(fills.wayIndex.value).toBe(1)
  expect(list.find('label.chosen + .use').exists()).toBe(true)
  await list.find('[data-test=use-way]').trigger('click')
  expect(fills.useWay).toHaveBeenCalledOnce()
})

it('takes Enter on the chosen sticking, as the button says', async () => {
  const { list, fills } = listed()
  await list.findAll('input')[1]!.setValue()
  await list.findAll('input')[1]!.trigger('keydown', { key: 'Enter' })
  expect(fills.useWay).toHaveBeenCalledOnce()
})
