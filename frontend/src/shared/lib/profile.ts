/** Light along a line through a picture's cut-out, of its surroundings. */

/** Linear light of each pixel, 0 to 1, from the sRGB tones of a picture (IEC 61966-2-1). */
export function lightOf(tones: Uint8ClampedArray): Float64Array {
  const light = new Float64Array(tones.length / 4)
  for (let i = 0; i < light.length; i++) {
    const at = 4 * i
    light[i] = (linear(tones[at] ?? 0) + linear(tones[at + 1] ?? 0) + linear(tones[at + 2] ?? 0)) / 3
  }
  return light
}

function linear(tone: number): number {
  const v = tone / 255
  return v <= 0.04045 ? v / 12.92 : ((v + 0.055) / 1.055) ** 2.4
}

/** Light along a line through the middle of a square, as shares of its ends' mean.
 *
 * `angle` in radians, the y axis pointing down; the mean over `half` pixels to both sides of the line
 * keeps noise low. Empty where the ends are dark. */
export function cutThrough(light: Float64Array, side: number, angle: number, half: number): number[] {
  const middle = (side - 1) / 2
  const [dx, dy] = [Math.cos(angle), Math.sin(angle)]
  const at = (x: number, y: number): number => {
    const column = Math.min(side - 1, Math.max(0, Math.round(x)))
    const row = Math.min(side - 1, Math.max(0, Math.round(y)))
    return light[row * side + column] ?? 0
  }
  const values = Array.from({ length: side }, (_, i) => {
    const along = i - middle
    let sum = 0
    for (let k = -half; k <= half; k++) sum += at(middle + along * dx - k * dy, middle + along * dy + k * dx)
    return sum / (2 * half + 1)
  })
  const ends = Math.max(2, Math.round(side / 10))
  const edge = [...values.slice(0, ends), ...values.slice(-ends)]
  const full = edge.reduce((a, b) => a + b, 0) / edge.length
  return full > 0.001 ? values.map((v) => v / full) : []
}
