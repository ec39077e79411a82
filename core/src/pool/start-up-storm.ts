/**
 * Hosts that start at the same time, and what their disks have to read. A host that starts asks
 * for so many operations a second; of a linked clone a share of them are reads of the parent, one
 * object that everybody reads. See `docs/models.md`, "Start-up storm and storage tier".
 */

export interface StormInput {
  readonly hosts: number;
  /** Operations a second that one host asks for while it starts. */
  readonly operationsPerHost: number;
  /** How long a start takes, seconds. */
  readonly startSeconds: number;
  /** Share of the operations that go to the parent, 0 to 1; 0 for a full clone. */
  readonly parentShare: number;
  /** What the datastore of the children has left, operations a second. */
  readonly childrenFree: number;
  /** What the datastore of the parent has left; null where both lie on one. */
  readonly parentFree: number | null;
}

export interface Storm {
  /** Operations a second if all hosts start at once. */
  readonly allAtOnce: number;
  /** The most hosts that may start at the same time; 0 where not even one can. */
  readonly atOnce: number;
  /** Which of the two gives out first. */
  readonly binds: 'parent' | 'children';
  /** Seconds from one start to the next that keep to it; 0 where all may start at once, infinite where none may. */
  readonly staggerSeconds: number;
  /** Seconds until the last host has started; infinite where none may. */
  readonly allStartedSeconds: number;
}

/** The largest k whose operations each datastore carries, and the stagger at which k starts overlap: start ÷ k. */
export function startUpStorm(input: StormInput): Storm {
  const { hosts, operationsPerHost, startSeconds, parentShare, childrenFree, parentFree } = input;
  const onChildren = operationsPerHost * (parentFree === null ? 1 : 1 - parentShare);
  const onParent = parentFree === null ? 0 : operationsPerHost * parentShare;
  const byChildren = mostAtOnce(childrenFree, onChildren);
  const byParent = mostAtOnce(parentFree ?? 0, onParent);
  const atOnce = Math.min(hosts, byChildren, byParent);
  const staggerSeconds = atOnce >= hosts ? 0 : startSeconds / atOnce;
  return {
    allAtOnce: hosts * operationsPerHost,
    atOnce,
    binds: byParent < byChildren ? 'parent' : 'children',
    staggerSeconds,
    allStartedSeconds: atOnce === 0 ? Infinity : Math.max(0, hosts - 1) * staggerSeconds + startSeconds,
  };
}

function mostAtOnce(free: number, each: number): number {
  return each === 0 ? Infinity : Math.max(0, Math.floor(free / each));
}
