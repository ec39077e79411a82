/** Work that reads what the work before it has written: one after the other, in the order in which it was asked for. */
export class OneAtATime {
  private turn: Promise<unknown> = Promise.resolve();

  /** Ends as the work does; a failure is no concern of what comes next. */
  run<T>(work: () => Promise<T>): Promise<T> {
    const done = this.turn.then(work);
    this.turn = done.catch(() => undefined);
    return done;
  }
}
