/** Shows a picture on a canvas, which takes its size. */
export function picture(c: HTMLCanvasElement, b: ImageBitmap) {
  if (c.width !== b.width || c.height !== b.height) {
    c.width = b.width
    c.height = b.height
  }
  const ctx = c.getContext('2d')!
  ctx.clearRect(0, 0, c.width, c.height)
  ctx.drawImage(b, 0, 0)
}
