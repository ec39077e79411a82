import './how.css';
import { Popover } from 'antd';
import type { ReactNode } from 'react';

/** "how?" beside a computed figure, with whatever answers it. */
export function HowButton({
  content,
  placement,
}: {
  content: ReactNode;
  placement: 'bottomLeft' | 'leftTop';
}) {
  return (
    <Popover content={content} trigger="click" placement={placement}>
      <button type="button" className="how">
        how?
      </button>
    </Popover>
  );
}

/** What went into a figure and what was assumed. */
export function How({ rows }: { rows: readonly (readonly [string, string])[] }) {
  const content = (
    <dl className="how-text">
      {rows.map(([term, text]) => (
        <div key={term}>
          <dt>{term}</dt>
          <dd>{text}</dd>
        </div>
      ))}
    </dl>
  );
  return <HowButton content={content} placement="bottomLeft" />;
}
