/** The review: one question at a time, what is heard of an answer, skipping and going back. */
import { describe, expect, it, vi } from 'vitest'
import { nextTick, ref, shallowRef } from 'vue'
import type { Hit, ReviewQuestion, Score } from '@/api/client'
import { answered } from '@/stages/review/answered'
import { useReview } from '@/stages/review/useReview'
import { bar, hit, score } from './composing'

const HAT = hit('1/4', 'hihat_open', { bar: 2 })
const song = () => score([bar(1, [hit('0', 'kick')]), bar(2, [hit('0', 'kick'), HAT]), bar(3, [hit('0', 'kick')])])

function question(key: string, change: Partial<ReviewQuestion> = {}): ReviewQuestion {
  return {
    key,
    kind: 'spot',
    words: key,
    bars: [2],
    places: [{ bar: 2, position: '1/4', instrument: 'hihat_open' }],
    examples: [HAT],
    is_missing: false,
    answers: [
      { value: 'yes', words: 'It is there' },
      { value: 'no', words: 'It is not' },
    ],
    ...change,
  }
}

function opened(...questions: ReviewQuestion[]) {
  const part = { gesture: vi.fn(async () => true), confirm: vi.fn(async () => true), undo: vi.fn() }
  const grooves = shallowRef<{ review: ReviewQuestion[] } | null>({ review: questions })
  const stack = { place: vi.fn() }
  const settings = ref<Record<string, unknown>>({ loop: null, hearing: 'record' })
  const player = { settings, preview: shallowRef(null), isPlaying: ref(false), play: vi.fn(), pause: vi.fn() }
  const loops = { loopDoubt: vi.fn() }
  const takeReading = vi.fn(async () => true)
  const made = shallowRef<Score | null>(song())
  const review = useReview(made, part as never, { grooves } as never, stack as never, player as never, loops, takeReading)
  return { review, part, grooves, stack, player, loops, takeReading }
}

const written = (made: Score) => made.bars.flatMap((item) => item.hits).map((one: Hit) => `${one.bar} ${one.position} ${one.instrument}`)

describe('an answer, heard before it is given', () => {
  it('leaves away what is not there, and renames a voice', () => {
    expect(written(answered(song(), question('a'), 'no'))).not.toContain('2 1/4 hihat_open')
    expect(written(answered(song(), question('a'), 'yes'))).toEqual(written(song()))
    const voice = question('v', { kind: 'voice' })
    expect(written(answered(song(), voice, 'ride'))).toContain('2 1/4 ride')
    expect(written(answered(song(), voice, 'not_played'))).toHaveLength(3)
  })

  it('takes yes to a delay as strokes that nobody played', () => {
    expect(written(answered(song(), question('e', { kind: 'echo' }), 'yes'))).toHaveLength(3)
  })

  it('writes a missing note where it is said to be', () => {
    const lacking = question('m', { is_missing: true, places: [], examples: [hit('1/2', 'snare', { bar: 3 })] })
    expect(written(answered(song(), lacking, 'yes'))).toContain('3 1/2 snare')
    expect(written(answered(song(), lacking, 'no'))).toEqual(written(song()))
  })
})

describe('the queue', () => {
  it('sends an answer by its number and shows the next question at once', async () => {
    const { review, part } = opened(question('one'), question('two'))
    await review.answerBy(1)
    expect(part.gesture).toHaveBeenCalledWith({ kind: 'answer', question: 'one', answer: 'no' })
    expect(review.question.value?.key).toBe('two')
    expect(review.open.value).toHaveLength(1)
    await review.answerBy(7)
    expect(part.gesture).toHaveBeenCalledOnce()
  })

  it('keeps the question where the answer was refused', async () => {
    const { review, part } = opened(question('one'))
    part.gesture.mockResolvedValueOnce(false)
    await review.answer('yes')
    expect(review.question.value?.key).toBe('one')
    expect(review.done.value).toBe(0)
  })

  it('goes back: a skipped question is in front again, an answer is undone', async () => {
    const { review, part } = opened(question('one'), question('two'))
    review.skip()
    expect(review.question.value?.key).toBe('two')
    await review.answer('yes')
    expect(review.question.value).toBeNull()
    await review.back()
    expect(part.undo).toHaveBeenCalledOnce()
    expect(review.question.value?.key).toBe('two')
    await review.back()
    expect(review.question.value?.key).toBe('one')
    await review.back()
    expect(part.undo).toHaveBeenCalledOnce()
  })

  it('asks again about what was skipped', () => {
    const { review } = opened(question('one'))
    review.skip()
    expect(review.question.value).toBeNull()
    review.again()
    expect(review.question.value?.key).toBe('one')
  })

  it('takes another reading of the song, and confirms the one that is kept', async () => {
    const counting = question('counting', {
      kind: 'counting',
      places: [],
      examples: [],
      answers: [
        { value: '0/4/0', words: '4/4 at 120' },
        { value: '1/4/0', words: '4/4 at 60' },
      ],
    })
    const same = opened(counting)
    await same.review.answerBy(0)
    expect(same.takeReading).not.toHaveBeenCalled()
    expect(same.part.confirm).toHaveBeenCalledWith('meter', true)
    const other = opened(counting)
    await other.review.answerBy(1)
    expect(other.takeReading).toHaveBeenCalledWith('1/4/0')
    expect(other.part.confirm).toHaveBeenCalledWith('meter', true)
  })

  it('shows the bars of a question in turn, its notes marked, with the cursor along', () => {
    const { review, stack } = opened(question('one', { bars: [2, 3] }))
    expect(review.bar.value?.number).toBe(2)
    expect(review.marked.value.map((one) => one.instrument)).toEqual(['hihat_open'])
    review.show(1)
    expect(review.bar.value?.number).toBe(3)
    expect(review.marked.value).toEqual([])
    expect(stack.place).toHaveBeenLastCalledWith({ bar: 3, position: '0' })
    review.show(1)
    expect(review.bar.value?.number).toBe(2)
  })

  it('plays the kit as answered, until the next question or the record', async () => {
    const { review, player, loops } = opened(question('one'), question('two'))
    review.hear('no')
    expect(player.settings.value.hearing).toBe('kit')
    expect(loops.loopDoubt).toHaveBeenCalledWith(2)
    expect(player.preview.value).not.toBeNull()
    review.hearRecord()
    expect(player.preview.value).toBeNull()
    expect(player.settings.value.hearing).toBe('record')
    review.hear('yes')
    review.skip()
    await nextTick()
    expect(player.preview.value).toBeNull()
  })
})
