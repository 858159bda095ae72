/** A file that takes a moment to make. */
import { flushPromises } from '@vue/test-utils'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { effectScope } from 'vue'
import { fileAt, useDownload } from '@/api/download'
import { answer } from './composing'

beforeEach(() => void vi.useFakeTimers())
afterEach(() => {
  vi.unstubAllGlobals()
  vi.useRealTimers()
})

function answering(...answers: (() => Response)[]) {
  const asked: string[] = []
  vi.stubGlobal('fetch', async (url: string) => {
    asked.push(url)
    return (answers.length > 1 ? answers.shift()! : answers[0]!)()
  })
  return asked
}
const making = () => answer({ state: 'making' }, 202)

describe('a file that is being made', () => {
  it('is asked for again until it is there', async () => {
    const asked = answering(making, making, () => new Response('%PDF'))
    const file = fileAt('/chart.pdf')
    await vi.advanceTimersByTimeAsync(2000)
    expect(await (await file).text()).toBe('%PDF')
    expect(asked).toHaveLength(3)
  })

  it('says why it cannot be made', async () => {
    answering(making, () => answer({ code: 'failed', detail: 'The disk is full.' }, 507))
    const { download, problem, making: which } = effectScope().run(useDownload)!
    void download('/chart.pdf', 'chart.pdf')
    expect(which.value).toBe('chart.pdf')
    await vi.advanceTimersByTimeAsync(2000)
    expect([problem.value, which.value]).toEqual(['The disk is full.', ''])
  })

  it('is given up after a long time, and at once when one leaves', async () => {
    const asked = answering(making)
    const scope = effectScope()
    const { download, problem } = scope.run(useDownload)!
    void download('/chart.pdf', 'chart.pdf')
    await vi.advanceTimersByTimeAsync(100_000)
    expect(problem.value).toContain('very long')
    expect(asked.length).toBeLessThan(200)
    scope.stop()
    await flushPromises()
  })
})
