export interface Consequences {
  same: boolean;
  differences: string[];
  crates: { id: string; title: string; trouble: string[] }[];
}

/** What saving a profile would mean, before it is saved. */
export function ProfileChanges({ consequences, save, close }: { consequences: Consequences; save(): void; close(): void }) {
  const { same, differences, crates } = consequences;
  return (
    <section className="panel p-3 mb-3" aria-label="What saving means">
      <h3>What saving means</h3>
      {same ? <p>Nothing is different but how it is written.</p> : differences.map((line) => <div key={line}>{line}</div>)}
      {crates.length > 0 && (
        <p className="mt-2 mb-1">
          {crates.length === 1 ? 'One crate is' : `${crates.length} crates are`} made with it, and {crates.length === 1 ? 'stays' : 'stay'} with it as
          it was until you move {crates.length === 1 ? 'it' : 'them'} under Set-up.
        </p>
      )}
      {crates.map(({ id, title, trouble }) => (
        <div key={id}>
          <strong>{title}</strong>: {trouble.length === 0 ? 'nothing of it would be wrong.' : trouble.join('; ')}
        </div>
      ))}
      <div className="d-flex gap-2 mt-2">
        <button className="btn btn-primary" onClick={save}>
          Save it
        </button>
        <button className="btn btn-quiet" onClick={close}>
          Not yet
        </button>
      </div>
    </section>
  );
}
