import { useState } from 'react';
import { Dropdown } from 'react-bootstrap';
import { Link } from 'react-router';
import type { CrateEntry } from '../api/types.ts';
import { bytes, plural, time } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';

const BUILD: Record<CrateEntry['stages']['build'], [string, string, string]> = {
  none: ['open', 'circle', 'not built'],
  fresh: ['clear', 'check-circle', 'built'],
  stale: ['stale', 'clock-history', 'build stale'],
  stopped: ['blocked', 'x-octagon', 'build stopped'],
};
const RELEASE: Record<CrateEntry['stages']['release'], [string, string, string]> = {
  none: ['open', 'circle', 'no package'],
  packed: ['notes', 'box-seam', 'packed'],
  published: ['clear', 'check-circle', 'published'],
};

const Stamp = ({ stamp: [kind, icon, word] }: { stamp: [string, string, string] }) => (
  <span className={`stamp ${kind}`}>
    <Icon name={icon} /> {word}
  </span>
);

export type CrateAction = 'copy' | 'rename' | 'archive' | 'delete';

/** A crate on the shelf: what it looks like, how far it has come, and what can be done with it as a whole. */
export function CrateCard({ crate, game, act }: { crate: CrateEntry; game: string; act(action: CrateAction): void }) {
  const { manifest, stages } = crate;
  // A picture that is damaged is not shown as a broken one; the stamp says what is the matter.
  const [lost, setLost] = useState<string | null>(null);
  return (
    <div className="panel h-100 crate-card">
      <Link to={`/crates/${crate.id}/map`} className="d-block p-3 text-decoration-none text-reset">
        {crate.picture && crate.picture !== lost && (
          <img src={crate.picture} alt="" className="crate-picture" loading="lazy" onError={() => setLost(crate.picture)} />
        )}
        <div className="d-flex align-items-baseline gap-2">
          <h2 className="m-0 flex-grow-1">{manifest.title}</h2>
          <span className="faint small">{manifest.version}</span>
        </div>
        <div className="small faint mb-2">
          <code>{manifest.name}</code> for {game} · {bytes(crate.bytes)} · changed {time(crate.updatedAt)}
        </div>
        <div className="crate-description">{manifest.description || <span className="faint">No description yet.</span>}</div>
      </Link>
      <div className="d-flex gap-3 align-items-center px-3 pb-2">
        <Stamp stamp={BUILD[stages.build]} />
        <Stamp stamp={RELEASE[stages.release]} />
        {crate.damaged > 0 && <Stamp stamp={['blocked', 'x-octagon', `${plural(crate.damaged, 'file')} damaged`]} />}
        {stages.findings > 0 && <Stamp stamp={['notes', 'exclamation-triangle', plural(stages.findings, 'file to look at', 'files to look at')]} />}
        <span className="flex-grow-1" />
        <Dropdown align="end">
          <Dropdown.Toggle variant="link" className="btn btn-quiet btn-sm" aria-label={`More for ${manifest.title}`}>
            <Icon name="three-dots" />
          </Dropdown.Toggle>
          <Dropdown.Menu>
            <Dropdown.Item onClick={() => act('copy')}>Copy …</Dropdown.Item>
            <Dropdown.Item onClick={() => act('rename')}>Rename …</Dropdown.Item>
            <Dropdown.Item onClick={() => act('archive')}>{crate.archived ? 'Take back' : 'Put away'}</Dropdown.Item>
            {crate.damaged > 0 && <Dropdown.Item href={`/api/crates/${crate.id}/export?damaged=without`}>Export what is whole</Dropdown.Item>}
            <Dropdown.Divider />
            <Dropdown.Item onClick={() => act('delete')}>Delete</Dropdown.Item>
          </Dropdown.Menu>
        </Dropdown>
      </div>
    </div>
  );
}
