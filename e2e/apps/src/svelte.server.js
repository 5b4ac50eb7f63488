import { render as renderApp } from 'svelte/server'
import App from './App.svelte'

export const render = (path) => renderApp(App, { props: { first: path } }).body
