/** A text editor for recipe files and scripts; loaded when it is first opened. */
import './text-editor.css';
import { yaml } from '@codemirror/lang-yaml';
import { HighlightStyle, StreamLanguage, syntaxHighlighting } from '@codemirror/language';
import { powerShell } from '@codemirror/legacy-modes/mode/powershell';
import { shell } from '@codemirror/legacy-modes/mode/shell';
import { linter, lintGutter, type Diagnostic } from '@codemirror/lint';
import { EditorState, type Extension } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import CodeMirror from '@uiw/react-codemirror';
import { useMemo } from 'react';

export type TextLanguage = 'yaml' | 'powershell' | 'shell' | 'batch';

/** Lines and columns count from 1. */
export interface TextFault {
  readonly line: number;
  readonly column: number;
  readonly message: string;
}

interface Props {
  /** Names the field to those who do not see it. */
  readonly label: string;
  readonly language: TextLanguage;
  readonly text: string;
  readonly height: string;
  readonly faults?: readonly TextFault[];
  /** Without it the text is only to be read. */
  readonly onChange?: (text: string) => void;
}

/** Our own colours; the editor's would be a second set, and unreadable in the dark. */
const colours = HighlightStyle.define([
  { tag: tags.definition(tags.propertyName), color: 'var(--action)' },
  { tag: [tags.comment, tags.lineComment], color: 'var(--quiet)' },
  { tag: [tags.punctuation, tags.separator, tags.meta], color: 'var(--quiet)' },
  { tag: [tags.keyword, tags.standard(tags.variableName)], color: 'var(--calm)', fontWeight: '600' },
  { tag: [tags.number, tags.bool, tags.atom], color: 'var(--attention)' },
]);
/** Values of a recipe are mostly texts, so there they stay plain; in a script they stand out. */
const scriptTexts = HighlightStyle.define([{ tag: tags.string, color: 'var(--action)' }]);

const languages: Record<TextLanguage, Extension> = {
  yaml: yaml(),
  powershell: [StreamLanguage.define(powerShell), syntaxHighlighting(scriptTexts)],
  shell: [StreamLanguage.define(shell), syntaxHighlighting(scriptTexts)],
  batch: [],
};

const none: readonly TextFault[] = [];

export default function TextEditor({ label, language, text, height, faults = none, onChange }: Props) {
  const readOnly = onChange === undefined;
  const extensions = useMemo(
    () => [
      languages[language],
      syntaxHighlighting(colours),
      lintGutter(),
      linter((view) => faults.map((fault) => diagnostic(view, fault)), { delay: 0 }),
      // The tab stop makes the text reachable, and scrollable, by keys alone.
      EditorView.contentAttributes.of({ 'aria-label': label, tabindex: '0' }),
      EditorState.readOnly.of(readOnly),
    ],
    [faults, label, language, readOnly],
  );
  return (
    <CodeMirror
      className="text-editor"
      value={text}
      height={height}
      theme="none"
      basicSetup={{
        syntaxHighlighting: false,
        foldGutter: false,
        highlightActiveLine: false,
        highlightActiveLineGutter: false,
      }}
      extensions={extensions}
      {...(onChange ? { onChange } : {})}
    />
  );
}

function diagnostic(view: EditorView, fault: TextFault): Diagnostic {
  const line = view.state.doc.line(Math.min(fault.line, view.state.doc.lines));
  return {
    from: Math.min(line.to, line.from + fault.column - 1),
    to: line.to,
    severity: 'error',
    message: fault.message,
  };
}
