/** How a step ends when somebody called its job off. */
export class Cancelled extends Error {
  override readonly name = 'Cancelled';

  constructor() {
    super('it was cancelled');
  }
}
