// Takes down what a page looks like, for a picture of the stage: every element
// of the window's part with its computed style, shadow roots opened, images as
// data. It stands under a Content-Security-Policy that forbids frames, inline
// style and foreign connections; the stage, on its own origin, draws it.

/** A window taken down: XHTML for a foreignObject of that size. */
export interface Taken {
  html: string
  /** px */
  width: number
  height: number
}

export interface Picture {
  take(): Promise<Taken>
}

/** A name that no browser has a style for, so that what is not said is initial. */
const bare = 'mastflag-x'
const skipped = new Set(['script', 'style', 'link', 'noscript', 'template', 'iframe', 'object', 'mastflag-stage'])
const drawable = 'http://www.w3.org/2000/svg'

const escape = (s: string) => s.replace(/&/g, '&amp;').replace(/</g, '&lt;').replace(/"/g, '&quot;')

/** An image as data: drawn where the browser lets it be read, fetched where not; "" if neither works. */
async function data(img: HTMLImageElement): Promise<string> {
  const address = img.currentSrc || img.src
  if (address.startsWith('data:')) return address
  try {
    const canvas = document.createElement('canvas')
    canvas.width = img.naturalWidth
    canvas.height = img.naturalHeight
    canvas.getContext('2d')?.drawImage(img, 0, 0)
    return canvas.toDataURL()
  } catch {
    try {
      const blob = await (await fetch(address)).blob()
      return await new Promise((done) => {
        const r = new FileReader()
        r.onload = () => done(String(r.result))
        r.readAsDataURL(blob)
      })
    } catch {
      return ''
    }
  }
}

export async function take(): Promise<Taken> {
  // What a property is where nobody has said anything.
  const probe = document.createElement(bare)
  probe.style.setProperty('all', 'initial')
  document.documentElement.append(probe)
  const initial = new Map<string, string>()
  for (const p of getComputedStyle(probe)) initial.set(p, getComputedStyle(probe).getPropertyValue(p))
  probe.remove()

  const styleOf = (style: CSSStyleDeclaration, inSvg = false) => {
    let out = ''
    for (const p of style) {
      const value = style.getPropertyValue(p)
      if (p.startsWith('--') || p.startsWith('animation') || p.startsWith('transition')) continue
      if (inSvg ? p === 'color' : value !== initial.get(p) && !value.includes('url(')) out += `${p}:${value};`
    }
    return out
  }
  const text = (e: Element, part: '::before' | '::after') => {
    const style = getComputedStyle(e, part)
    const said = /^"(.*)"$/.exec(style.content)
    return said ? `<${bare} style="${escape(styleOf(style))}">${escape(said[1])}</${bare}>` : ''
  }
  const inside = async (nodes: Iterable<Node>): Promise<string> => {
    let out = ''
    for (const n of nodes) out += await draw(n)
    return out
  }
  const draw = async (n: Node): Promise<string> => {
    if (n.nodeType === Node.TEXT_NODE) return escape(n.textContent ?? '')
    if (!(n instanceof Element) || skipped.has(n.localName)) return ''
    const style = getComputedStyle(n)
    if (style.display === 'none' || style.visibility === 'hidden') return ''
    if (n.namespaceURI === drawable) {
      const copy = n.cloneNode(true) as Element
      const box = n.getBoundingClientRect()
      return (
        `<${bare} style="${escape(styleOf(style))}display:inline-block;width:${box.width}px;` +
        `height:${box.height}px">${new XMLSerializer().serializeToString(copy)}</${bare}>`
      )
    }
    const css = escape(styleOf(style))
    if (n.localName === 'br') return '<br/>'
    if (n instanceof HTMLImageElement) return `<img style="${css}" src="${escape(await data(n))}"/>`
    if (n instanceof HTMLInputElement || n instanceof HTMLTextAreaElement)
      return `<${bare} style="${css}">${escape(n.value)}</${bare}>`
    const content =
      n instanceof HTMLSlotElement && n.assignedNodes().length ? n.assignedNodes() : (n.shadowRoot ?? n).childNodes
    return `<${bare} style="${css}">${text(n, '::before')}${await inside(content)}${text(n, '::after')}</${bare}>`
  }

  const root = document.documentElement
  // The page is drawn scrolled as it is; what floats lies where it is seen.
  const body = await inside([root])
  const paper =
    [root, document.body].map((e) => getComputedStyle(e).backgroundColor).find((c) => c !== 'rgba(0, 0, 0, 0)') ??
    '#fff'
  const [width, height] = [root.clientWidth, innerHeight]
  const html =
    `<div xmlns="http://www.w3.org/1999/xhtml" style="position:relative;overflow:hidden;width:${width}` +
    `px;height:${height}px;background:${paper};transform:translate(0)"><div style="position:absolute;inset:0;` +
    `top:${-scrollY}px">${body}</div></div>`
  return { html, width, height }
}
