/** How each room that is open saves what is written in it. */
export const openRooms = new Set<() => Promise<unknown>>()

/** Saves what is written in the rooms that are open. */
export const saveAll = () => Promise.all([...openRooms].map((save) => save()))
