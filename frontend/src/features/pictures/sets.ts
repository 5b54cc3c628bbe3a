import type { Schemas } from '@/api/client'
import { count } from '@/shared/lib/format'

export type PictureSet = Schemas['SetView']
export type Picture = Schemas['PictureView']
export type Mark = Schemas['SeenMark']

export function atWork(s: PictureSet): boolean {
  return s.state === 'waiting' || s.state === 'working'
}

/** How a set goes, in a sentence. */
export function stateWords(s: PictureSet): string {
  const c = s.counts
  if (s.state === 'waiting') return 'Waits for its turn.'
  if (s.state === 'working') return s.step ? `Working: ${s.step}.` : 'Begins.'
  if (s.state === 'failed') return s.error ?? 'It failed.'
  const stopped = s.state === 'stopped' ? 'Stopped. ' : ''
  if (s.kind === 'arrivals')
    return s.state === 'done' ? `${count(c.total, 'picture')} searched.` : `${stopped}It can go on.`
  if (s.work === 'write') return `${stopped}${c.written} of ${c.total} written.`
  const refused = c.refused ? ` ${c.refused} cannot be patched.` : ''
  return `${stopped}${c.looked} of ${c.total} looked at.${refused}`
}

/** Marks that are taken out of a picture, the vetoes of the moment left out. */
export function taken(p: Picture, veto: readonly string[]): Mark[] {
  const left = new Set([...veto, ...p.veto])
  return (p.looked?.marks ?? []).filter((m) => m.why === null && !left.has(m.id))
}

/** What is said under a picture of the contact sheet. */
export function pictureWords(p: Picture, veto: readonly string[]): string {
  if (!p.looked) return 'not looked at yet'
  if (p.looked.why_not) return p.looked.why_not
  if (p.leave) return 'left as it is'
  if (p.done?.out) return `written: ${p.done.restored} restored, ${p.done.filled} filled`
  if (p.done?.why_not) return p.done.why_not
  const found = taken(p, veto).length
  return found ? `${count(found, 'shadow')} to take out` : 'no shadow shows'
}

/** A list with an entry put in, or taken out if it was in it. */
export function toggled(list: readonly string[], id: string): string[] {
  return list.includes(id) ? list.filter((x) => x !== id) : [...list, id]
}

/** A set's name: the last part of its folder's path. */
export function nameOf(s: PictureSet): string {
  if (s.uploaded) return 'Pictures dropped here'
  return s.folder.split(/[\\/]/).filter(Boolean).at(-1) ?? s.folder
}

/** Whether its copies lie written. */
export function isWritten(s: PictureSet): boolean {
  return s.work === 'write' && s.state === 'done' && s.counts.written > 0
}
