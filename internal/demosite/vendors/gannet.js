// Gannet Offers, invented: sells offers, and tells on.
{
  document.cookie = 'gnt_id=' + Math.random().toString(36).slice(2) + ';path=/;max-age=7776000;samesite=lax'
  document.cookie = 'gnt_seen_' + location.pathname.split('/')[1] + '=1;path=/;max-age=7776000;samesite=lax'
}
