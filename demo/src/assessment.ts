/** What a measuring agent recorded on old desktops of the library: two days, sixty people, every five minutes. */
import { logNormal, seededRandom } from '@vatline/core/random';

const PEOPLE = 60;
const DAYS = ['2027-03-09', '2027-03-10'];
const [OPENS, CLOSES] = [8 * 60, 18 * 60];

/** How much busier a time of day is than the mean: mornings and the hour after lunch. */
function busyness(minute: number): number {
  const bump = (at: number, width: number) => Math.exp(-(((minute - at) / width) ** 2));
  return 0.6 + 0.7 * bump(9.25 * 60, 70) + 0.5 * bump(14 * 60, 60);
}

/** The recording as CSV: user, time, cpu (fraction of a core), memory (bytes), operations (a second). */
export function assessmentCsv(): string {
  const random = seededRandom('assessment');
  const lines = ['user,time,cpu,memory,operations'];
  for (let person = 1; person <= PEOPLE; person++) {
    const user = `staff-${String(person).padStart(3, '0')}`;
    const habit = logNormal(random, 0.16, 0.34);
    const memory = logNormal(random, 1.5e9, 2.4e9);
    for (const day of DAYS)
      for (let minute = OPENS; minute < CLOSES; minute += 5) {
        // Away from the desk: nothing was recorded.
        if (random() < 0.12) continue;
        const cpu = Math.min(2, logNormal(random, habit, habit * 1.9) * busyness(minute));
        const clock = [Math.floor(minute / 60), minute % 60].map((n) => String(n).padStart(2, '0')).join(':');
        const bytes = Math.round((memory * (0.9 + random() * 0.2)) / 1e6) * 1e6;
        lines.push(`${user},${day}T${clock},${cpu.toFixed(3)},${bytes},${(cpu * 38).toFixed(1)}`);
      }
  }
  return `${lines.join('\n')}\n`;
}
