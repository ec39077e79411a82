/** Licences of the system that hosts run: a key service without a bound, and keys with so many activations. */

export interface MultiUseKey {
  readonly name: string;
  readonly activations: number;
  readonly used: number;
}

export interface Licences {
  keys(): Promise<readonly MultiUseKey[]>;
  /** Uses up an activation of a key for a host; the same host again uses nothing more. Throws `quota` when none is left. */
  activate(key: string, licence: string, host: string): Promise<void>;
  /** Gives a host's activation back; one that has none stays without. */
  release(key: string, host: string): Promise<void>;
}
