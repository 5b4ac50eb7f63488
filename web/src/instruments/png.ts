// A picture of a page that its site script has taken down.

/** XHTML for a foreignObject of that size, px. */
export interface Taken {
  html: string
  width: number
  height: number
}

/** The address of a PNG of it. */
export async function png(taken: Taken): Promise<string> {
  const { width, height } = taken
  const svg =
    `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><foreignObject ` +
    `width="100%" height="100%">${taken.html}</foreignObject></svg>`
  const image = new Image()
  image.src = 'data:image/svg+xml;charset=utf-8,' + encodeURIComponent(svg)
  await image.decode()
  const canvas = document.createElement('canvas')
  canvas.width = width
  canvas.height = height
  canvas.getContext('2d')?.drawImage(image, 0, 0)
  return canvas.toDataURL('image/png')
}
