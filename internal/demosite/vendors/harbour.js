// The site's own script: remembers the last port that was looked at, for those
// who want that, and opens the privacy choices from the foot of the page.
{
  const remember = () => {
    if (window.mastflag?.consent?.granted('preferences') && location.pathname.includes('/ports/'))
      document.cookie = 'last_port=' + location.pathname.split('/').pop() + ';path=/;max-age=2592000;samesite=lax'
  }
  document.addEventListener('mastflag:consent', remember)
  document.addEventListener('click', (e) => {
    const book = e.target.closest?.('[data-book]')
    if (book) {
      // What a shop would send to its server it tells the notices too.
      window.mastflag?.event('booking', { value: Number(book.dataset.book), route: 'Aldwick' })
      book.nextElementSibling.textContent = book.nextElementSibling.dataset.booked
    }
    if (!e.target.closest?.('[data-privacy]') || !window.mastflag?.consent) return
    e.preventDefault()
    window.mastflag.consent.open()
  })
  // A shop window that comes late, with a script of its own.
  const late = document.querySelector('[data-late]')
  if (late)
    setTimeout(() => {
      const s = document.createElement('script')
      s.type = 'text/plain'
      s.dataset.purpose = 'marketing'
      s.src = late.dataset.late
      late.append(s)
    }, 300)
}
