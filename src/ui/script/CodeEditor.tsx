'use client';

import { setDiagnostics } from '@codemirror/lint';
import { EditorView } from '@codemirror/view';
import CodeMirror, { type ReactCodeMirrorRef } from '@uiw/react-codemirror';
import { getNonce } from 'get-nonce';
import { useEffect, useMemo, useRef } from 'react';
import { marksOf, sieveEditing } from './editing';
import type { FaultLine } from './reader.worker';

interface Props {
  readonly text: string;
  readonly faults: readonly FaultLine[];
  /** A position to move to; a new object moves there again. */
  readonly goTo: { readonly offset: number } | null;
  readonly onChange: (text: string) => void;
  readonly onCursor: (offset: number) => void;
}

export default function CodeEditor({ text, faults, goTo, onChange, onCursor }: Props) {
  const editor = useRef<ReactCodeMirrorRef>(null);
  const extensions = useMemo(() => sieveEditing(getNonce()), []);
  useEffect(() => {
    const view = editor.current?.view;
    if (view) view.dispatch(setDiagnostics(view.state, marksOf(faults, view.state.doc.length)));
  }, [faults]);
  useEffect(() => {
    const view = editor.current?.view;
    if (!view || !goTo) return;
    const anchor = Math.min(goTo.offset, view.state.doc.length);
    view.dispatch({ selection: { anchor }, effects: EditorView.scrollIntoView(anchor, { y: 'start', yMargin: 40 }) });
    view.focus();
  }, [goTo]);
  return (
    <CodeMirror
      ref={editor}
      value={text}
      height="100%"
      theme="none"
      style={{ height: '100%' }}
      extensions={extensions}
      basicSetup={{ autocompletion: false, highlightSelectionMatches: false }}
      indentWithTab={false}
      onChange={onChange}
      onUpdate={({ state, selectionSet }) => selectionSet && onCursor(state.selection.main.head)}
      onCreateEditor={(view) => view.dispatch(setDiagnostics(view.state, marksOf(faults, view.state.doc.length)))}
    />
  );
}
