// Files from this machine, and to it.

/** The content of a file in base64. */
export function base64(file: Blob): Promise<string> {
  return new Promise((done, fail) => {
    const r = new FileReader()
    r.onload = () => done(String(r.result).replace(/^[^,]*,/, ''))
    r.onerror = () => fail(r.error)
    r.readAsDataURL(file)
  })
}

/** Saves a text as a file. */
export const saveText = (name: string, text: string, type: string): void => saveBlob(name, new Blob([text], { type }))

/** Saves a content as a file. */
export function saveBlob(name: string, content: Blob): void {
  const a = document.createElement('a')
  a.href = URL.createObjectURL(content)
  a.download = name
  a.click()
  URL.revokeObjectURL(a.href)
}
