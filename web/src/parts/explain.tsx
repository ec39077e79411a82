/** A chain of links, left to right, broken where it breaks. */
import './explain.css';

export function Explain({ chain }: { chain: readonly { holds: boolean; text: string }[] }) {
  return (
    <ol className="chain">
      {chain.map((link) => (
        <li key={link.text} className={link.holds ? 'holds' : 'breaks'}>
          {link.text}
        </li>
      ))}
    </ol>
  );
}
