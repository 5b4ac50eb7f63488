// An editor of HTML with highlighting. It lives in a shadow root, where its styles
// need nothing of the page's Content-Security-Policy.
import { html } from '@codemirror/lang-html'
import { lintGutter, setDiagnostics, type Diagnostic } from '@codemirror/lint'
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language'
import { EditorState } from '@codemirror/state'
import { EditorView } from '@codemirror/view'
import { tags } from '@lezer/highlight'
import { basicSetup } from 'codemirror'

export interface Mistake {
  /** From 1. */
  line: number
  column: number
  says: string
}

export interface Highlighted {
  /** The text, where it is another than what is there. */
  set(text: string): void
  mark(mistakes: Mistake[]): void
  focus(): void
  destroy(): void
}

const look = EditorView.theme({
  '&': {
    fontSize: '13px',
    backgroundColor: 'var(--sail)',
    color: 'var(--ink)',
    border: '1px solid var(--line)',
    borderRadius: '3px',
  },
  '&.cm-focused': { outline: '2px solid var(--sea)' },
  '.cm-scroller': { minHeight: '84px', maxHeight: '240px', fontFamily: 'ui-monospace, monospace', lineHeight: '1.5' },
  '.cm-gutters': { backgroundColor: 'var(--chart)', color: 'var(--ink-2)', border: '0' },
  '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'transparent' },
  '.cm-tooltip': { backgroundColor: 'var(--sail)', color: 'var(--ink)', border: '1px solid var(--line)' },
})

/** In the colours of the interface, which can be read in the dark too. */
const colours = HighlightStyle.define([
  { tag: [tags.tagName, tags.keyword, tags.operatorKeyword], color: 'var(--sea)', fontWeight: '600' },
  { tag: [tags.attributeName, tags.propertyName], color: 'var(--wait)' },
  { tag: [tags.string, tags.attributeValue, tags.number, tags.bool], color: 'var(--live)' },
  { tag: tags.comment, color: 'var(--ink-2)', fontStyle: 'italic' },
  { tag: tags.invalid, color: 'var(--alarm)' },
])

/** Puts an editor into an element. Tab leaves it, as it does any field. */
export function highlighted(
  into: HTMLElement,
  text: string,
  label: string,
  readOnly: boolean,
  changed: (text: string) => void,
): Highlighted {
  const root = into.shadowRoot ?? into.attachShadow({ mode: 'open' })
  const view = new EditorView({
    parent: root,
    root,
    state: EditorState.create({
      doc: text,
      extensions: [
        basicSetup,
        html(),
        syntaxHighlighting(colours),
        look,
        lintGutter(),
        EditorState.readOnly.of(readOnly),
        EditorView.lineWrapping,
        EditorView.contentAttributes.of({ 'aria-label': label }),
        EditorView.updateListener.of((u) => u.docChanged && changed(u.state.doc.toString())),
      ],
    }),
  })
  return {
    set(next) {
      if (next !== view.state.doc.toString())
        view.dispatch({ changes: { from: 0, to: view.state.doc.length, insert: next } })
    },
    mark(mistakes) {
      const all: Diagnostic[] = mistakes.map(({ line, column, says }) => {
        const at = view.state.doc.line(Math.min(Math.max(1, line), view.state.doc.lines))
        const from = Math.min(at.from + Math.max(0, column - 1), at.to)
        return { from, to: Math.max(from, at.to), severity: 'error', message: says }
      })
      view.dispatch(setDiagnostics(view.state, all))
    },
    focus: () => view.focus(),
    destroy: () => view.destroy(),
  }
}
