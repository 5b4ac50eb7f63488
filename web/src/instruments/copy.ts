import { tell } from './tell'

/** Puts a text that stands on the screen into the clipboard, and says so; whether the browser let it. */
export async function copy(text: string, done = 'Copied.', refused = 'select the address'): Promise<boolean> {
  try {
    await navigator.clipboard.writeText(text)
    tell(done)
    return true
  } catch {
    tell(`The browser does not let this page copy: ${refused}.`, 'warning')
    return false
  }
}
