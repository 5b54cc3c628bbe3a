/** Keys of a page by its name, as its own code takes them. */
type Keys = readonly (readonly [string, string])[]

export const EVERYWHERE: Keys = [
  ['Ctrl K', 'find anything'],
  ['Ctrl V', 'measure a copied picture'],
  ['?', 'these keys'],
]
const MAP: Keys = [
  ['Tab, arrows', 'from spot to spot'],
  ['Enter', 'choose the spot'],
  ['Esc', 'let it go'],
  ['+ −', 'zoom the map'],
  ['0', 'whole map'],
]
export const KEYS: Record<string, Keys> = {
  frame: MAP,
  visit: MAP,
  hands: [
    ['Space', 'next'],
    ['Enter', 'count one more'],
    ['Backspace', 'back'],
    ['P', 'pause'],
    ['L', 'long or short guide'],
    ['Esc', 'leave'],
  ],
  compare: [
    ['B', 'blink'],
    ['S', 'side by side'],
    ['Space', 'the other frame'],
    ['[ ]', 'move the edge'],
    ['+ −', 'zoom'],
    ['0', 'whole frame'],
    ['Esc', 'back'],
  ],
  'picture-set': [
    ['← →', 'from mark to mark'],
    ['PgUp PgDn', 'from picture to picture'],
    ['Space', 'before or after'],
    ['Esc', 'close'],
  ],
  'practice-frames': [
    ['arrows', 'aim'],
    ['1 to 7', 'kind of mark'],
    ['Enter', 'mark it'],
    ['M', 'the second frame'],
  ],
  'practice-places': [
    ['arrows', 'aim'],
    ['Enter', 'touch'],
  ],
  'practice-hand': [
    ['arrows', 'move'],
    ['Space', 'down or up'],
    ['T', 'turn the face'],
    ['D', 'a drop'],
    ['Enter', 'done'],
  ],
}
