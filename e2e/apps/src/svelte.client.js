import { hydrate } from 'svelte'
import App from './App.svelte'
import { begin } from './routes.js'

void begin(() => hydrate(App, { target: document.getElementById('app'), props: { first: location.pathname } }))
