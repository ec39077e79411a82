/**
 * How long signing in takes on a pool: a base, the profile, and every package that is attached at
 * sign-in. The busier the file share, the longer each mount: waiting grows as 1/(1 − ρ), as in a
 * queue with one server (M/M/1).
 */

export interface SignInPackage {
  readonly name: string;
  /** Milliseconds to mount the container on a share that is idle. */
  readonly mountMs: number;
  /** To register one entry point. */
  readonly registerMs: number;
  readonly entryPoints: number;
  readonly operationsPerAttach: number;
  readonly attachedAhead: boolean;
}

export interface SignInModel {
  readonly baseMs: number;
  readonly profileMs: number;
  /** Containers that are mounted at the same time. */
  readonly parallelMounts: number;
  readonly packages: readonly SignInPackage[];
  /** Operations a second that the share can do, and that others ask of it all the time. */
  readonly shareLimit: number;
  readonly steadyOperations: number;
}

/** At this load and above waiting has no end worth naming. */
const SATURATED = 0.95;

export interface SignInTime {
  readonly ms: number;
  /** Share of the file share's operations that is asked for. */
  readonly load: number;
  readonly isSaturated: boolean;
  /** What attaching each package ahead would save, the most first. */
  readonly savings: readonly { readonly name: string; readonly ms: number }[];
}

/** Sign-in time while so many people a second sign in. */
export function signInTime(model: SignInModel, signInsPerSecond: number): SignInTime {
  const { ms, load } = timeAt(model, signInsPerSecond);
  const savings = model.packages
    .filter((one) => !one.attachedAhead)
    .map((one) => {
      const packages = model.packages.map((other) =>
        other === one ? { ...one, attachedAhead: true } : other,
      );
      return { name: one.name, ms: ms - timeAt({ ...model, packages }, signInsPerSecond).ms };
    })
    .sort((a, b) => b.ms - a.ms);
  return { ms, load, isSaturated: load >= SATURATED, savings };
}

function timeAt(model: SignInModel, signInsPerSecond: number): { ms: number; load: number } {
  const own = model.packages.filter((one) => !one.attachedAhead);
  const asked = own.reduce((sum, one) => sum + one.operationsPerAttach, 0) * signInsPerSecond;
  const load = (asked + model.steadyOperations) / model.shareLimit;
  const factor = 1 / (1 - Math.min(load, SATURATED));
  const register = own.reduce((sum, one) => sum + one.registerMs * one.entryPoints, 0);
  const mounts = longestOf(
    own.map((one) => one.mountMs * factor),
    model.parallelMounts,
  );
  return { ms: model.baseMs + model.profileMs + mounts + register, load };
}

/** When the last of these is done if so many run at once, longest first. */
function longestOf(times: readonly number[], parallel: number): number {
  const lanes = new Array<number>(Math.max(1, parallel)).fill(0);
  for (const time of [...times].sort((a, b) => b - a)) {
    const least = lanes.indexOf(Math.min(...lanes));
    lanes[least] = (lanes[least] ?? 0) + time;
  }
  return Math.max(...lanes);
}
