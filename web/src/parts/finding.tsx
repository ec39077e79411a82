import './finding.css';
import type { ReactNode } from 'react';

export type Tone = 'trouble' | 'attention' | 'calm' | 'good';

/** One row of what needs a person or what a check found. The mark's shape and place go with its colour. */
export function Finding({
  tone,
  title,
  children,
  action,
}: {
  tone: Tone;
  title: ReactNode;
  children?: ReactNode;
  action?: ReactNode;
}) {
  return (
    <div className="finding">
      <span className={`tone ${tone}`} role="img" aria-label={tone} />
      <div>
        <div className="strong">{title}</div>
        {children && <p>{children}</p>}
        {action}
      </div>
    </div>
  );
}
