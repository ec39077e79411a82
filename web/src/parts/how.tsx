import './how.css';
import { Popover } from 'antd';

/** "how?" beside a computed figure: what went into it and what was assumed. */
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
  return (
    <Popover content={content} trigger="click" placement="bottomLeft">
      <button type="button" className="how">
        how?
      </button>
    </Popover>
  );
}
