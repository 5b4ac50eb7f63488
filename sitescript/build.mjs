// Builds the site script and its loader into the folder that the program embeds.
import { build, transform } from 'esbuild'
import { readFile } from 'node:fs/promises'

const outdir = '../internal/delivery/dist'

// The style that all notices share is written once, beside the Go templates.
const css = await transform(await readFile('../core/render/bar.css', 'utf8'), { loader: 'css', minify: true })

await build({
  entryPoints: { site: 'src/site.ts', loader: 'src/loader.ts', inline: 'src/inline.ts' },
  outdir,
  bundle: true,
  minify: true,
  format: 'iife',
  target: 'es2020',
  define: { BASE_CSS: JSON.stringify(css.code.trim()) },
  legalComments: 'none',
})

// The evaluation of remainders by itself, so that a browser can be asked about
// the cases that the core is tested with.
await build({
  entryPoints: { remainder: 'src/remainder.ts' },
  outdir: 'build',
  bundle: true,
  format: 'iife',
  globalName: 'remainder',
  target: 'es2020',
})
