const LONGEST_PX = 1600
const QUALITY = 0.8

/** Width and height of a picture made to fit, never larger than it is. */
export function fitted(width: number, height: number, longest = LONGEST_PX): [number, number] {
  const share = Math.min(1, longest / Math.max(width, height))
  return [Math.max(1, Math.round(width * share)), Math.max(1, Math.round(height * share))]
}

/** A photograph as a JPEG of a size that shows every screw and is quick to keep. */
export async function smaller(file: File): Promise<Blob> {
  const whole = await createImageBitmap(file).catch(() => {
    throw new Error(`${file.name} is no picture that this browser can read. Take a JPEG.`)
  })
  const [width, height] = fitted(whole.width, whole.height)
  const canvas = document.createElement('canvas')
  canvas.width = width
  canvas.height = height
  canvas.getContext('2d')?.drawImage(whole, 0, 0, width, height)
  whole.close()
  return new Promise((resolve, reject) => {
    canvas.toBlob(
      (made) => {
        if (made) resolve(made)
        else reject(new Error(`${file.name} could not be made smaller. Take a JPEG.`))
      },
      'image/jpeg',
      QUALITY,
    )
  })
}
