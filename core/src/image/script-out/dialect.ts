/** What a script language has to offer so that a recipe can be written in it. */
import type { FragmentStep, Step } from '../recipe.ts';
import type { ByHandStep } from './by-hand.ts';

/** A step that some script language may know how to do. */
export type WritableStep = Exclude<Step, ByHandStep | FragmentStep>;

/** What a step comes to: commands, or why it must be done by hand. */
export type Rendered = { readonly commands: readonly string[] } | { readonly byHand: string };

/** How one script language writes what every script has. */
export interface Dialect {
  readonly fileName: string;
  /** What stands before the first step. */
  readonly preamble: readonly string[];
  render(step: WritableStep): Rendered;
  /** Stops until a person says that they have done it. */
  askForHands(what: string): string;
  /** Looks for what the step must have left; nothing where this language cannot. */
  successCheck(step: Step): readonly string[];
  /** One step: skipped when done before, counted when it ends well. */
  frame(step: FramedStep): readonly string[];
  readonly ending: readonly string[];
}

export interface FramedStep {
  readonly number: number;
  readonly title: string;
  readonly commands: readonly string[];
  readonly restartAfter: boolean;
  /** How often it is tried again. */
  readonly retries: number;
}
