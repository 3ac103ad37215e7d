import {
  autocompletion,
  type Completion,
  type CompletionContext,
  type CompletionResult,
} from '@codemirror/autocomplete';
import { HighlightStyle, indentUnit, StreamLanguage, syntaxHighlighting } from '@codemirror/language';
import { sieve } from '@codemirror/legacy-modes/mode/sieve';
import type { Diagnostic } from '@codemirror/lint';
import type { Extension } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import { maybeCompletions } from '../../core/sieve/complete';
import type { FaultLine } from './reader.worker';

/** Ink on paper: weight and slope before colour, since colour marks what can be acted on. */
const style = HighlightStyle.define([
  { tag: tags.comment, color: 'var(--ink-soft)', fontStyle: 'italic' },
  { tag: tags.keyword, fontWeight: '650' },
  { tag: tags.atom, fontWeight: '650' },
  { tag: tags.string, color: 'var(--stream-chosen)' },
  { tag: tags.number, color: 'var(--stream-chosen)' },
]);

const look = EditorView.theme({
  '&': { height: '100%', fontSize: '13.5px', backgroundColor: 'transparent', color: 'var(--mantine-color-text)' },
  '&.cm-focused': { outline: 'none' },
  '.cm-scroller': { fontFamily: 'var(--mantine-font-family-monospace)', lineHeight: '1.5' },
  '.cm-content': { caretColor: 'var(--mantine-color-text)' },
  '.cm-cursor': { borderLeftColor: 'var(--mantine-color-text)' },
  '.cm-gutters': {
    backgroundColor: 'transparent',
    color: 'var(--ink-soft)',
    borderRight: '1px solid var(--hairline)',
  },
  '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: 'var(--paper-deep)' },
  '&.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground, .cm-selectionBackground': {
    backgroundColor: 'var(--accent-wash)',
  },
  '.cm-selectionMatch, .cm-searchMatch': { backgroundColor: 'var(--accent-wash)' },
  '.cm-matchingBracket, &.cm-focused .cm-matchingBracket': {
    backgroundColor: 'transparent',
    outline: '1px solid var(--hairline-strong)',
  },
  '.cm-foldPlaceholder': { backgroundColor: 'transparent', border: 'none', color: 'var(--ink-soft)' },
  '.cm-lintRange-error': { backgroundImage: 'none', borderBottom: '2px solid var(--accent)' },
  '.cm-lintRange-info': { backgroundImage: 'none', borderBottom: '2px dotted var(--ink-soft)' },
  '.cm-tooltip, .cm-panels': {
    backgroundColor: 'var(--mantine-color-body)',
    color: 'var(--mantine-color-text)',
    border: '1px solid var(--hairline-strong)',
  },
  '.cm-tooltip-autocomplete > ul > li[aria-selected]': {
    backgroundColor: 'var(--accent-wash)',
    color: 'var(--mantine-color-text)',
  },
  '.cm-tooltip.cm-completionInfo': { maxWidth: '34rem', whiteSpace: 'pre-line', padding: '6px 10px' },
  '.cm-completionDetail': { color: 'var(--ink-soft)', fontStyle: 'normal', marginLeft: '1.2em' },
  '.cm-completionIcon': { display: 'none' },
  '.cm-diagnostic': { fontFamily: 'var(--mantine-font-family)', borderLeft: '3px solid var(--accent)' },
  '.cm-diagnostic-info': { borderLeftColor: 'var(--ink-soft)' },
});

/** Completions at the cursor, from the table of the language. */
function complete({ state, pos, explicit }: CompletionContext): CompletionResult | null {
  const found = maybeCompletions(state.doc.toString(), pos);
  if (!found || (found.from === pos && !explicit)) return null;
  return {
    from: found.from,
    options: found.options.map(
      ({ label, kind, detail, about }): Completion => ({
        label,
        detail,
        ...(about === '' ? {} : { info: about }),
        type: kind,
      }),
    ),
    validFor: /^:?[\w;.-]*$/,
  };
}

/** The extensions of a Sieve editor; the nonce is that of the page's content security policy. */
export function sieveEditing(nonce: string | undefined): Extension[] {
  return [
    StreamLanguage.define(sieve),
    indentUnit.of('    '),
    syntaxHighlighting(style),
    look,
    autocompletion({ override: [complete], icons: false }),
    EditorView.lineWrapping,
    EditorView.contentAttributes.of({ 'aria-label': 'Sieve script', tabindex: '0', spellcheck: 'false' }),
    ...(nonce ? [EditorView.cspNonce.of(nonce)] : []),
  ];
}

export function marksOf(faults: readonly FaultLine[], length: number): Diagnostic[] {
  return faults.map(({ span, words, slight }) => {
    const from = Math.min(span.start, Math.max(0, length - 1));
    return {
      from,
      to: Math.min(length, Math.max(span.end, from + 1)),
      severity: slight ? 'info' : 'error',
      message: words,
    };
  });
}
