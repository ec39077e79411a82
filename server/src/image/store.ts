/** Everything that is kept of image lines. */
import type { Parts } from '../platform/parts.ts';
import { CheckpointStore } from './checkpoint-store.ts';
import { HandNoteStore } from './hand-notes.ts';
import { LineStore } from './lines.ts';
import { RecipeStore } from './recipes.ts';
import { StepRunStore } from './step-runs.ts';
import { VersionStore } from './versions.ts';

export class ImageStore {
  readonly lines: LineStore;
  readonly recipes: RecipeStore;
  readonly runs: StepRunStore;
  readonly checkpoints: CheckpointStore;
  readonly handNotes: HandNoteStore;
  readonly versions: VersionStore;

  constructor(parts: Pick<Parts, 'db' | 'dataFolder' | 'estate' | 'workers'>) {
    this.lines = new LineStore(parts);
    this.recipes = new RecipeStore(parts);
    this.runs = new StepRunStore(parts);
    this.checkpoints = new CheckpointStore(parts);
    this.handNotes = new HandNoteStore(parts);
    this.versions = new VersionStore(parts, this.lines);
  }
}
