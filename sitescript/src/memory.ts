// What this visitor did with notices, in their own browser on the site's own
// origin. Where storage is barred it lasts as long as the page.

interface Acts {
  closed?: string
}

export class Memory {
  private notices: Record<string, Acts> = {}
  private session = ''
  private readonly name: string

  constructor(key: string) {
    this.name = `mastflag.${key}`
    try {
      this.notices = JSON.parse(localStorage.getItem(this.name) ?? '{}')
    } catch {
      // Barred, or not what was written: begin anew.
    }
  }

  /** The session began now, unless it did before. */
  begin(now: string): void {
    this.session ||= now
    try {
      this.session = sessionStorage.getItem(this.name) ?? this.session
      sessionStorage.setItem(this.name, this.session)
    } catch {
      // Barred: every page is a session.
    }
  }

  close(id: string, now: string): void {
    try {
      // Another tab may have written meanwhile.
      Object.assign(this.notices, JSON.parse(localStorage.getItem(this.name) ?? '{}'))
    } catch {
      // Barred.
    }
    this.notices[id] = { ...this.notices[id], closed: now }
    try {
      localStorage.setItem(this.name, JSON.stringify(this.notices))
    } catch {
      // Barred or full: it stays closed on this page.
    }
  }

  /** As a decision is asked with it; view is when this page view began. */
  visit(view: string): object {
    return { session: this.session || undefined, view: view || undefined, notices: this.notices }
  }
}
