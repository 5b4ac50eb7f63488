// Builds the site script and its loader into the folder that the program embeds.
import { build, transform } from 'esbuild'
import { readFile } from 'node:fs/promises'

const outdir = '../internal/delivery/dist'

// The style that all notices share is written once, beside the Go templates.
const style = async (name) =>
  JSON.stringify(
    (await transform(await readFile(`../core/render/${name}`, 'utf8'), { loader: 'css', minify: true })).code.trim(),
  )

await build({
  entryPoints: { loader: 'src/loader.ts', inline: 'src/inline.ts', guarded: 'src/guarded.ts' },
  outdir,
  bundle: true,
  minify: true,
  format: 'iife',
  target: 'es2022',
  legalComments: 'none',
})

await build({
  entryPoints: { site: 'src/site.ts' },
  outdir,
  bundle: true,
  minify: true,
  format: 'esm',
  target: 'es2022',
  define: { BASE_CSS: await style('bar.css') },
  legalComments: 'none',
})

// What is loaded only when a decision needs it, and what works for the stage.
await build({
  entryPoints: {
    edges: 'src/edges.ts',
    inpage: 'src/inpage.ts',
    popup: 'src/popup.ts',
    stage: 'src/stage.ts',
    picture: 'src/picture.ts',
    ribbon: 'src/ribbon.ts',
    consent: 'src/consent.ts',
    disclaimer: 'src/disclaimer.ts',
    visits: 'src/visits.ts',
    ways: 'src/ways.ts',
    form: 'src/form.ts',
    hours: 'src/hours.ts',
    sound: 'src/sound.ts',
    tab: 'src/tab.ts',
    video: 'src/video.ts',
    results: 'src/results.ts',
    remainder: 'src/remainder.ts',
    shared: 'src/shared.ts',
  },
  outdir,
  bundle: true,
  minify: true,
  format: 'esm',
  target: 'es2022',
  define: { CARD_CSS: await style('card.css') },
  legalComments: 'none',
})

// The evaluation of remainders, and the figures of countdowns, by themselves,
// so that a browser can be asked about the cases that the core is tested with.
for (const name of ['remainder', 'countdown'])
  await build({
    entryPoints: { [name]: `src/${name}.ts` },
    outdir: 'build',
    bundle: true,
    format: 'iife',
    globalName: name,
    target: 'es2022',
  })
