/** A text editor for recipe files; loaded when it is first opened. */
import { yaml } from '@codemirror/lang-yaml';
import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import { linter, lintGutter, type Diagnostic } from '@codemirror/lint';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import CodeMirror from '@uiw/react-codemirror';
import { useMemo } from 'react';
import type { RecipeFileFault } from '@vatline/contract/recipe-file';

interface Props {
  readonly text: string;
  readonly faults: readonly RecipeFileFault[];
  readonly onChange: (text: string) => void;
}

/** Our own colours; the editor's would be a second set, and unreadable in the dark. */
const colours = HighlightStyle.define([
  { tag: tags.definition(tags.propertyName), color: 'var(--action)' },
  { tag: [tags.string, tags.special(tags.string), tags.content], color: 'var(--ink)' },
  { tag: [tags.comment, tags.lineComment], color: 'var(--quiet)' },
  { tag: [tags.punctuation, tags.separator, tags.meta], color: 'var(--quiet)' },
]);

export default function RecipeTextEditor({ text, faults, onChange }: Props) {
  const extensions = useMemo(
    () => [
      yaml(),
      syntaxHighlighting(colours),
      lintGutter(),
      linter((view) => faults.map((fault) => diagnostic(view, fault)), { delay: 0 }),
      EditorView.contentAttributes.of({ 'aria-label': 'Recipe as text' }),
    ],
    [faults],
  );
  return (
    <CodeMirror
      className="recipe-editor"
      value={text}
      height="400px"
      theme="none"
      basicSetup={{
        syntaxHighlighting: false,
        foldGutter: false,
        highlightActiveLine: false,
        highlightActiveLineGutter: false,
      }}
      extensions={extensions}
      onChange={onChange}
    />
  );
}

function diagnostic(view: EditorView, fault: RecipeFileFault): Diagnostic {
  const line = view.state.doc.line(Math.min(fault.line, view.state.doc.lines));
  return {
    from: Math.min(line.to, line.from + fault.column - 1),
    to: line.to,
    severity: 'error',
    message: fault.message,
  };
}
