/** Small texts about songs and time. */
import type { Run } from '@/api/client'

export function clock(seconds: number): string {
  const whole = Math.max(0, Math.floor(seconds))
  return `${Math.floor(whole / 60)}:${String(whole % 60).padStart(2, '0')}`
}

const STAGES: Record<string, string> = {
  copy: 'Making the copy to play from',
  decode: 'Reading the recording',
  listen: 'Listening for drums',
  beats: 'Following the beat',
  bars: 'Finding the one',
  write: 'Writing the part',
  parts: 'Taking the drums apart',
  read: 'Reading the file',
  done: 'Done',
}

export function runWords(run: Run): string {
  if (run.state === 'queued') return run.message || 'Waiting for its turn'
  if (run.state === 'running') return run.message || (STAGES[run.stage] ?? 'Listening')
  if (run.state === 'cancelled') return run.message || 'Cancelled'
  return run.message
}

/** What to say when a run that was watched has ended. */
export function endWords(run: Run): string {
  if (run.state !== 'done') return run.message
  if (!run.message) return ''
  return run.message.includes('no bar') ? `${run.message}.` : `${run.message}. Undo takes it back.`
}

export function leftWords(run: Run): string {
  if (run.state !== 'running' || run.seconds_left === null) return ''
  if (run.seconds_left < 1.5) return 'almost there'
  return `about ${Math.ceil(run.seconds_left)} s left`
}
