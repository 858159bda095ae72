/**
 * Generated from the core by `python -m studio.api_types`: do not edit.
 * What Python and TypeScript both must know is written once, there.
 */
import type { Instrument, Limb, Ornament } from './client'

/** The four lanes, from above. */
export const LIMBS: readonly Limb[] = [
  "RH",
  "LH",
  "RF",
  "LF"
]

export const LIMB_NAMES: Record<Limb, string> = {
  "RH": "right hand",
  "LH": "left hand",
  "RF": "right foot",
  "LF": "left foot"
}

/** How a drummer says it. */
export const INSTRUMENT_NAMES: Record<Instrument, string> = {
  "kick": "kick",
  "snare": "snare",
  "cross_stick": "cross-stick",
  "hihat_closed": "closed hat",
  "hihat_open": "open hat",
  "hihat_foot": "foot hat",
  "hihat_splash": "foot splash",
  "ride": "ride",
  "ride_bell": "ride bell",
  "crash": "crash",
  "splash": "splash",
  "china": "china",
  "tom_high": "high tom",
  "tom_mid": "mid tom",
  "tom_low": "low tom",
  "tom_floor": "floor tom",
  "clap": "clap",
  "shaker": "shaker",
  "cowbell": "cowbell",
  "tambourine": "tambourine"
}

/** What a limb can play, the likeliest first. */
export const PLAYED_BY: Record<Limb, readonly Instrument[]> = {
  "RH": [
    "hihat_closed",
    "hihat_open",
    "ride",
    "ride_bell",
    "crash",
    "tom_floor",
    "snare"
  ],
  "LH": [
    "snare",
    "cross_stick",
    "tom_high",
    "tom_mid",
    "tom_floor",
    "hihat_closed",
    "crash"
  ],
  "RF": [
    "kick"
  ],
  "LF": [
    "hihat_foot",
    "hihat_splash"
  ]
}

/** Drums whose heads are crosses. */
export const CROSSED: readonly Instrument[] = [
  "hihat_closed",
  "hihat_open",
  "hihat_foot",
  "hihat_splash",
  "ride",
  "ride_bell",
  "crash",
  "splash",
  "china",
  "shaker",
  "tambourine"
]

export const TOMS: readonly Instrument[] = [
  "tom_high",
  "tom_mid",
  "tom_low",
  "tom_floor"
]

/** When the soft strokes of an ornament sound: seconds from the main one. */
export const GRACE_SECONDS: Record<Ornament, readonly number[]> = {
  "flam": [
    -0.035
  ],
  "drag": [
    -0.07,
    -0.035
  ],
  "buzz": [
    0.03,
    0.06,
    0.09
  ]
}

/** How loud they are, of the main one's velocity. */
export const GRACE_SHARE: number = 0.45

/** A hat open by less is written half open. */
export const HALF_OPEN_BELOW: number = 0.5

/** How far one is that somebody calls half open. */
export const HALF_OPENING: number = 0.4

/** The words of each school, as one says them. */
export const SCHOOLS: Record<string, string> = {
  "e-and-a": "1 e & a · trip let",
  "e-and-ah": "1 e & ah · la li",
  "e-and-da": "1 e & da · trip let"
}

/** What an electronic kit means by a key. */
export const MIDI_KEYS: Record<number, Instrument> = {
  "35": "kick",
  "36": "kick",
  "37": "cross_stick",
  "38": "snare",
  "39": "clap",
  "40": "snare",
  "41": "tom_floor",
  "42": "hihat_closed",
  "43": "tom_floor",
  "44": "hihat_foot",
  "45": "tom_low",
  "46": "hihat_open",
  "47": "tom_mid",
  "48": "tom_mid",
  "49": "crash",
  "50": "tom_high",
  "51": "ride",
  "52": "china",
  "53": "ride_bell",
  "54": "tambourine",
  "55": "splash",
  "56": "cowbell",
  "57": "crash",
  "59": "ride",
  "69": "shaker",
  "70": "shaker",
  "82": "shaker"
}

export const DEFAULT_SCHOOL: string = "e-and-a"

export const FEWEST_TAPS: number = 4

/** Endings of recordings that are taken. */
export const SUFFIXES: readonly string[] = [
  ".wav",
  ".flac",
  ".ogg",
  ".oga",
  ".opus",
  ".mp3",
  ".m4a",
  ".aac",
  ".mp4",
  ".aif",
  ".aiff"
]

/** Endings of drum parts of other programs that are taken. */
export const PART_SUFFIXES: readonly string[] = [
  ".musicxml",
  ".mxl",
  ".xml",
  ".mid",
  ".midi"
]

/** The ending of a bundle. */
export const BUNDLE_SUFFIX: string = ".zip"

/** What is taken, in a line. */
export const LIMITS_TEXT: string = "WAV, FLAC, OGG, MP3, M4A/AAC or AIFF; 2 s to 20 minutes; at most 300 MB; mono to 5.1; 8 to 96 kHz"

export const LARGEST_BYTES: number = 314572800

export const SHORTEST_SECONDS: number = 2.0

export const LONGEST_SECONDS: number = 1200
