// Builds the apps that the tests hydrate: for each framework a script for the browser, and the pages as its server
// renders them. FIRST and SECOND stand where the server of the test puts the lines that a site carries.
import { build } from 'esbuild'
import { mkdir, readFile, writeFile } from 'node:fs/promises'
import { pathToFileURL } from 'node:url'
import { resolve } from 'node:path'
import { compile } from 'svelte/compiler'
import { paths } from './src/routes.js'

/** Svelte's own compiler, for one side. */
const svelte = (generate) => ({
  name: 'svelte',
  setup(b) {
    b.onLoad({ filter: /\.svelte$/ }, async ({ path }) => ({
      contents: compile(await readFile(path, 'utf8'), { filename: path, generate, dev: false }).js.code,
      loader: 'js',
    }))
  },
})
const define = {
  'process.env.NODE_ENV': '"production"',
  __VUE_OPTIONS_API__: 'false',
  __VUE_PROD_DEVTOOLS__: 'false',
  __VUE_PROD_HYDRATION_MISMATCH_DETAILS__: 'true',
}

await mkdir('build', { recursive: true })
const pages = {}
for (const [app, suffix] of [['react', 'jsx'], ['vue', 'js'], ['svelte', 'js']]) {
  await build({
    entryPoints: { [app]: `src/${app}.client.${suffix}` },
    outdir: 'build',
    bundle: true,
    minify: true,
    format: 'esm',
    jsx: 'automatic',
    conditions: ['browser'],
    define,
    plugins: [svelte('client')],
    legalComments: 'none',
  })
  const outfile = `build/${app}.server.mjs`
  await build({
    entryPoints: [`src/${app}.server.${suffix}`],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    jsx: 'automatic',
    define,
    plugins: [svelte('server')],
    banner: { js: "import { createRequire } from 'node:module'; const require = createRequire(import.meta.url)" },
  })
  const { render, whole } = await import(pathToFileURL(resolve(outfile)))
  pages[app] = Object.fromEntries(await Promise.all(paths.map(async (p) => [p, await render(p)])))
  if (whole) {
    pages.document = Object.fromEntries(paths.map((p) => [p, whole(p, ['FIRST', 'SECOND'])]))
  }
}
await writeFile('build/pages.json', JSON.stringify(pages))
