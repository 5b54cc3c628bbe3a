import { describe, expect, it } from 'vitest'
import { pictureWords, stateWords, taken, toggled, type Picture, type PictureSet } from './sets'
import { picturesIn, picturesOf } from './useFolderUpload'

const counts = { total: 4, looked: 4, refused: 1, left_alone: 1, written: 0 }
const set = (more: Partial<PictureSet>): PictureSet =>
  ({
    kind: 'patch',
    work: 'look',
    state: 'done',
    step: '',
    error: null,
    out_folder: '',
    counts,
    ...more,
  }) as PictureSet
const mark = (id: string, why: string | null) => ({ id, why, x_px: 1, y_px: 1, outer_px: 9, depth: 0.1 })
const picture = (more: Partial<Picture>): Picture =>
  ({
    number: 1,
    name: 'a.jpg',
    leave: false,
    veto: [],
    done: null,
    looked: { why_not: null, marks: [mark('s1', null), mark('s2', null), mark('s3', 'outside')] },
    ...more,
  }) as Picture

describe('a set of pictures', () => {
  it('says how it goes', () => {
    expect(stateWords(set({}))).toBe('4 of 4 looked at. 1 cannot be patched.')
    expect(stateWords(set({ state: 'working', step: '2 of 4 looked at' }))).toBe('Working: 2 of 4 looked at.')
    expect(stateWords(set({ state: 'waiting' }))).toBe('Waits for its turn.')
    expect(stateWords(set({ state: 'failed', error: 'The disk is full.' }))).toBe('The disk is full.')
    expect(stateWords(set({ state: 'stopped', work: 'write', out_folder: '/o' }))).toBe(
      'Stopped. 0 of 4 written.',
    )
    expect(stateWords(set({ kind: 'arrivals', work: 'search' }))).toBe('4 pictures searched.')
  })
  it('takes out what is neither left nor vetoed', () => {
    expect(taken(picture({}), []).map((m) => m.id)).toEqual(['s1', 's2'])
    expect(taken(picture({ veto: ['s1'] }), ['s2'])).toEqual([])
    expect(pictureWords(picture({}), [])).toBe('2 shadows to take out')
    expect(pictureWords(picture({ leave: true }), [])).toBe('left as it is')
    expect(pictureWords(picture({ looked: null }), [])).toBe('not looked at yet')
    expect(toggled(toggled([], 's1'), 's1')).toEqual([])
  })
})

const file = (name: string): FileSystemEntry =>
  ({
    name,
    fullPath: `/day/${name}`,
    isDirectory: false,
    file: (done: (f: File) => void) => done(new File(['x'], name)),
  }) as unknown as FileSystemEntry
function folder(name: string, portions: FileSystemEntry[][]): FileSystemEntry {
  const left = [...portions]
  const createReader = () => ({
    readEntries: (done: (e: FileSystemEntry[]) => void) => done(left.shift() ?? []),
  })
  return { name, fullPath: `/${name}`, isDirectory: true, createReader } as unknown as FileSystemEntry
}

describe('a dropped folder', () => {
  it('gives its pictures, whatever portions the browser hands out', async () => {
    const dropped = folder('day', [
      [file('a.jpg'), file('notes.txt')],
      [folder('in', [[file('b.TIF')]]), file('.c.jpg')],
    ])
    expect((await picturesOf([dropped])).map((p) => p.name)).toEqual(['day/a.jpg', 'day/b.TIF'])
  })
  it('leaves out what is no picture', () => {
    const chosen = [new File(['x'], 'a.jpeg'), new File(['x'], 'b.txt'), new File(['x'], '.d.png')]
    expect(picturesIn(chosen).map((p) => p.name)).toEqual(['a.jpeg'])
  })
})
