/** What people on hosts are told: before a window begins, and when theirs begins to drain. */
import type { Fault } from '../result.ts';
import { MINUTE, type Instant } from '../time/instant.ts';

export interface Notice {
  /** `{minutes}` stands for how long there is until then. */
  readonly text: string;
  /** Before each window, to everybody on a host that waits for its turn; 0 tells nobody before. */
  readonly minutesBefore: number;
}

/** The text as it is shown with so many minutes to go, rounded up to whole ones. */
export function noticeText({ text }: Pick<Notice, 'text'>, minutes: number): string {
  return text.replaceAll('{minutes}', String(Math.ceil(minutes)));
}

/** When people are told of a window; undefined where nobody is told before. */
export function noticeAt({ minutesBefore }: Notice, windowStart: Instant): Instant | undefined {
  return minutesBefore > 0 ? windowStart - minutesBefore * MINUTE : undefined;
}

/** What is wrong with a text, at its field. */
export function noticeFaults(notice: Notice | null): Fault[] {
  const unknown = /\{(?!minutes\})[^}]*\}/.exec(notice?.text ?? '')?.[0];
  return unknown === undefined
    ? []
    : [{ path: 'notice.text', message: `${unknown} stands for nothing; {minutes} is how long there is` }];
}
