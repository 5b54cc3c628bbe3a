/** How the frame is toned: as the camera shot it, or flattened with the gain raised. */
export type Tone = 'shot' | 'relief'

export const LEAST_GAIN = 1
export const MOST_GAIN = 8

/** CSS filter for a tone; the relief tiles hold a gain of four already. */
export function toneFilter(tone: Tone, gain: number): string {
  return tone === 'relief' ? `contrast(${gain})` : 'none'
}
