// Paths of pages: segment by segment, and behind a # that of the page that an app goes on to by itself.

/** The steps of a path: /ports and /aldwick; / and #/ports. */
export const steps = (path: string): string[] => path.match(/#!?\/[^/]*|\/[^/#]*/g) ?? []

/** Whether a path lies below another one, by whole segments; below the home page by the # alone. */
export const isBelow = (path: string, above: string): boolean =>
  path.startsWith(above) && (path[above.length] === '#' || (above !== '/' && path[above.length] === '/'))
