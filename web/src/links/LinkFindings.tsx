import type { Finding } from '@violet-crate/core/finding';
import type { LinkChange } from '@violet-crate/core/linkChange';
import { plural } from '../common/format.ts';
import { FindingRow } from '../common/FindingRow.tsx';

interface Props {
  findings: readonly Finding[];
  propose(changes: LinkChange[]): void;
}

/** Codes whose fixes are taken together, in words. */
const TOGETHER: Record<string, string> = {
  'link-case': 'names in another case',
  'link-twice': 'doubles',
  'link-stock': 'copies of the game’s files',
  'link-unused': 'unused things',
};

/** What is wrong with the links, each with its fix; those of one kind are mended together. */
export function LinkFindings({ findings, propose }: Props) {
  if (findings.length === 0) return <p className="p-3 faint">Nothing is wrong with the links.</p>;
  const groups = Object.entries(TOGETHER).flatMap(([code, words]) => {
    const changes = findings.flatMap((finding) => (finding.code === code && finding.fix?.kind === 'crate' ? [finding.fix.change] : []));
    return changes.length > 1 ? [{ code, words, changes }] : [];
  });
  return (
    <div className="link-findings panel">
      {groups.length > 0 && (
        <div className="d-flex gap-2 flex-wrap p-2">
          {groups.map(({ code, words, changes }) => (
            <button key={code} className="btn btn-quiet btn-sm" onClick={() => propose(changes)}>
              {code === 'link-unused' ? 'Remove' : 'Mend'} all {plural(changes.length, '')} {words} …
            </button>
          ))}
        </div>
      )}
      {findings.map((finding, n) => (
        <FindingRow key={`${finding.code} ${finding.message} ${n}`} finding={finding} />
      ))}
    </div>
  );
}
