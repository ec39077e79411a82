/** When a rollout stops by itself because too much of it fails. Forecast and engine both ask here. */

/** Stops at so many failures, or once `after` hosts are through, when more than a share of them failed. */
export interface FailureRule {
  /** Failures at which it stops, whatever else; null for no such number. */
  readonly failures: number | null;
  /** Share of the hosts that are through, 0 to 1; null for no such share. */
  readonly share: number | null;
  /** Hosts that must be through before the share counts. */
  readonly after: number;
}

/** Hosts that are through: done, or given up on. */
export interface Through {
  readonly done: number;
  readonly failed: number;
}

/** `at 3 failures, or above 10 % once 20 are through`. */
export function failureRuleInWords({ failures, share, after }: FailureRule): string {
  const words = [
    failures === null ? undefined : `at ${failures} ${failures === 1 ? 'failure' : 'failures'}`,
    share === null ? undefined : `above ${Math.round(share * 100)} % once ${after} are through`,
  ];
  return words.filter((part) => part !== undefined).join(', or ') || 'never';
}

/** Why it stops, with its figures; undefined while it goes on. Source: `docs/models.md`, "Gates". */
export function stopsFor({ done, failed }: Through, rule: FailureRule): string | undefined {
  const through = done + failed;
  if (rule.failures !== null && failed >= rule.failures)
    return `${failed} ${failed === 1 ? 'host' : 'hosts'} failed; it stops at ${rule.failures}`;
  if (rule.share !== null && through >= rule.after && through > 0 && failed / through > rule.share)
    return `${failed} of ${through} hosts failed; it stops above ${Math.round(rule.share * 100)} %`;
  return undefined;
}
