// Takes a picture of the window's part of the page, with the notices on it.
import { domToPng } from 'modern-screenshot'

export interface Picture {
  take(): Promise<string>
}

/** The window as a data: address of a PNG. */
export async function take(): Promise<string> {
  const root = document.documentElement
  return domToPng(root, {
    width: root.clientWidth,
    height: innerHeight,
    backgroundColor: getComputedStyle(document.body).backgroundColor === 'rgba(0, 0, 0, 0)' ? '#ffffff' : undefined,
    style: { transform: `translateY(-${scrollY}px)` },
    features: { restoreScrollPosition: true },
  })
}
