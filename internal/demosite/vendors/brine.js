// Brine Metrics, invented, and badly behaved: it is not marked, and asks nobody.
{
  document.cookie = 'brine_uid=' + Date.now().toString(36) + ';path=/;max-age=63072000;samesite=lax'
}
