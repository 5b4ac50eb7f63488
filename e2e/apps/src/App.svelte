<script>
  import { onMount } from 'svelte'
  import { paths, route, routes } from './routes.js'

  let { first } = $props()
  let path = $state(first)
  let beat = $state(0)
  onMount(() => {
    route((p) => (path = p))
    const timer = setInterval(() => beat++, 100)
    return () => clearInterval(timer)
  })
</script>

<div id="shell">
  <header>
    {#each paths as p (p)}<a href={p}>{p}</a>{/each}
    <output>{beat}</output>
  </header>
  {#key path}
    <main>
      <h1>{routes[path].title}</h1>
      <p class="lead">Ferries between the islands, every day.</p>
      <ul>
        {#each routes[path].items as i (i)}<li>{i}</li>{/each}
      </ul>
      <p id="end">That is all.</p>
    </main>
  {/key}
</div>
