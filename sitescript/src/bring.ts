/**
 * Brings in a part of the script. It is fetched, and imported once it is there: an import that waits for the program
 * would hold up the page's load event in Firefox, a fetch does not anywhere.
 */
export async function bring<T>(address: string): Promise<T> {
  const reply = await fetch(address)
  await reply.text()
  if (!reply.ok) throw reply.status
  return import(/* @vite-ignore */ address) as Promise<T>
}
