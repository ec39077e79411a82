import { minutes } from './format.ts';

/** The place in a recipe above which steps come from checkpoints. */
export function Waterline({ minutesSaved }: { minutesSaved: number }) {
  return (
    <li className="waterline" aria-label={`Above: from checkpoints, saves ${minutes(minutesSaved)}`}>
      <Wave />
      <span>above: from checkpoints, saves {minutes(minutesSaved)}</span>
      <Wave />
    </li>
  );
}

function Wave() {
  return (
    <svg viewBox="0 0 200 10" preserveAspectRatio="xMidYMid slice" aria-hidden>
      <path d={`M0 5 ${Array.from({ length: 20 }, (_, i) => `q5 ${i % 2 === 0 ? -6 : 6} 10 0`).join(' ')}`} />
    </svg>
  );
}
