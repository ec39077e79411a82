interface Props {
  readonly value: string;
  readonly onChange: (text: string) => void;
}

/** Above a list of hosts that is too long to be looked through. */
export function NameFilter({ value, onChange }: Props) {
  return (
    <input
      className="note-input host-filter"
      placeholder="part of a name"
      aria-label="Filter the hosts"
      value={value}
      onChange={(event) => onChange(event.target.value)}
    />
  );
}

/** What is said where no name holds what is asked for. */
export function NoSuchName({ text }: { readonly text: string }) {
  return <p className="quiet">No host’s name holds “{text}”.</p>;
}
