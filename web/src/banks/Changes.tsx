import type { Difference } from '@violet-crate/core/bank/differences';

/** Differences between two banks in the words of their layout. */
export function Changes({
  differences,
  none = 'The crate changes nothing of this bank yet.',
}: {
  differences: readonly Difference[];
  none?: string;
}) {
  if (differences.length === 0) return <p className="faint p-2">{none}</p>;
  return (
    <table className="table panel align-middle">
      <thead>
        <tr>
          <th>Where</th>
          <th>Before</th>
          <th>After</th>
        </tr>
      </thead>
      <tbody>
        {differences.slice(0, 1000).map(({ where, before, after }) => (
          <tr key={where}>
            <td>{where}</td>
            <td>{before ?? <span className="faint">was not there</span>}</td>
            <td>{after ?? <span className="faint">is gone</span>}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
