/**
 * The stages in working order. A stage is a folder below stages/ whose index registers its view, its keys
 * and what is said under its name; it appears here when it does what it promises.
 */
import type { Component } from 'vue'
import { chart } from '@/stages/chart'
import { feel } from '@/stages/feel'
import { fills } from '@/stages/fills'
import { form } from '@/stages/form'
import { grooves } from '@/stages/grooves'
import { listen } from '@/stages/listen'
import { practice } from '@/stages/practice'
import { review } from '@/stages/review'
import type { KeyUse, MakeKey } from './keyUse'
import type { OpenSong } from './openSong'
import { FOR_GUESTS, type StageId } from './useStage'

export interface Stage {
  id: StageId
  name: string
  view: Component
  /** A few words under its name: what is left to do there. */
  badge: (open: OpenSong) => string
  keys: (open: OpenSong, key: MakeKey) => KeyUse[]
}

export const STAGES: readonly Stage[] = [listen, form, review, grooves, fills, feel, chart, practice]

/** The stages of a song as it is open: all, or for a guest those that a link opens. */
export function stagesOf(open: { guest: unknown }): readonly Stage[] {
  return open.guest ? STAGES.filter((item) => FOR_GUESTS.includes(item.id)) : STAGES
}

export function stageOf(id: StageId): Stage {
  return STAGES.find((item) => item.id === id) ?? grooves
}
