/** What is kept for playing without a connection: every sound of the kit and of the voice. */
import { afterEach, describe, expect, it, vi } from 'vitest'
import { forgetSongs, keepSong, soundAddresses } from '@/base/offline'

afterEach(() => vi.unstubAllGlobals())

const KIT = { velocities: { soft: 40, hard: 110 }, variants: { kick: 1, snare: 2 } }

describe('the sounds', () => {
  it('are each stroke of each drum in each layer, and each word', async () => {
    vi.stubGlobal('fetch', async (address: string) =>
      Response.json(address.endsWith('kit.json') ? KIT : { one: 0.4, and: 0.3 }),
    )
    const named = (await soundAddresses()).map((address) => address.split('/').slice(-2).join('/'))
    expect(named).toEqual([
      'kit/kit.json',
      'voice/voice.json',
      'kit/kick-soft-1.ogg',
      'kit/kick-hard-1.ogg',
      'kit/snare-soft-1.ogg',
      'kit/snare-soft-2.ogg',
      'kit/snare-hard-1.ogg',
      'kit/snare-hard-2.ogg',
      'voice/one.ogg',
      'voice/and.ogg',
    ])
  })

  it('are none where nobody answers', async () => {
    vi.stubGlobal('fetch', async () => {
      throw new TypeError('no connection')
    })
    expect(await soundAddresses()).toEqual([])
  })
})

describe('a browser without a service worker', () => {
  it('keeps no song, and says so', async () => {
    const asked = vi.fn()
    vi.stubGlobal('fetch', asked)
    expect(await keepSong('song', ['/api/songs/song'])).toBe(false)
    expect(asked).not.toHaveBeenCalled()
    await expect(forgetSongs()).resolves.toBeUndefined()
  })
})
