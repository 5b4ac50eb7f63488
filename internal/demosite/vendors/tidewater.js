// Tidewater Counts, invented: counts visits.
{
  document.cookie = 'tw_visit=' + Date.now() + ';path=/;max-age=31536000;samesite=lax'
  localStorage.setItem('tw.path', location.pathname)
  new Image().src = document.currentScript.dataset.to + '?count=' + encodeURIComponent(location.pathname)
}
