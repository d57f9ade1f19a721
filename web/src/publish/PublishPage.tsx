import { useSearchParams } from 'react-router';
import { Icon } from '../common/Icon.tsx';
import { useAppSelector } from '../state/store.ts';
import { CheckStep, usePreflight } from './CheckStep.tsx';
import { CompareReleases } from './CompareReleases.tsx';
import { Details } from './Details.tsx';
import { LedgerTable } from './LedgerTable.tsx';
import { ListStep } from './ListStep.tsx';
import { PicturesPanel } from './PicturesPanel.tsx';
import { PackagePanel } from './PackagePanel.tsx';
import { PlayerStep } from './PlayerStep.tsx';
import { UploadStep } from './UploadStep.tsx';
import { usePublishing } from './usePublishing.ts';
import './publish.css';

type Step = 'describe' | 'check' | 'package' | 'upload' | 'test' | 'list';
type State = ['clear' | 'open' | 'stale' | 'blocked' | 'running', icon: string, word: string];

const WORDS: Record<Step, string> = {
  describe: 'Describe',
  check: 'Check',
  package: 'Package',
  upload: 'Upload',
  test: 'Test as a player',
  list: 'List',
};

/** Stage 8: from what people will read to releases that they play, step by step, each with its state. */
export function PublishPage() {
  const { view, packages, releases } = useAppSelector((s) => s.crate);
  if (!view) return null;
  return (
    <Steps
      key={view.id}
      crateId={view.id}
      packed={packages?.[0]?.fresh ?? null}
      published={releases?.some(({ packageId }) => packageId === packages?.[0]?.id) ?? false}
    />
  );
}

function Steps({ crateId, packed, published }: { crateId: string; packed: boolean | null; published: boolean }) {
  const [address, setAddress] = useSearchParams();
  const manifest = useAppSelector((s) => s.crate.view!.manifest);
  const points = usePreflight();
  const { changes, uploads, workshop, problem, refresh } = usePublishing(crateId);
  const blocked = points.some(({ state }) => state === 'blocker');
  const warned = points.some(({ state }) => state === 'warning');
  const upload = uploads[0]?.state;
  const tests = workshop?.mod?.tests ?? [];
  const clear = (word: string): State => ['clear', 'check-circle', word];
  const open = (word: string): State => ['open', 'circle', word];
  const described = manifest.description.trim() !== '' && manifest.authors.length > 0;
  const states: Record<Step, State> = {
    describe: !described ? open('something is missing') : manifest.licence ? clear('described') : ['stale', 'exclamation-triangle', 'no licence'],
    check: blocked ? ['blocked', 'x-octagon', 'blocked'] : warned ? ['stale', 'exclamation-triangle', 'warnings'] : clear('all is met'),
    package: packed === null ? open('none yet') : packed ? clear('made') : ['stale', 'clock-history', 'of an older state'],
    upload: published
      ? clear('published')
      : upload === 'running'
        ? ['running', 'cloud-upload', 'on its way']
        : upload === 'failed'
          ? ['blocked', 'x-octagon', 'broken off']
          : upload === 'stopped'
            ? ['stale', 'pause-circle', 'stopped']
            : open('not sent'),
    test: tests.some(({ works }) => !works)
      ? ['stale', 'exclamation-triangle', 'does not work for some']
      : tests.length > 0
        ? clear('tested')
        : open('nobody yet'),
    list:
      workshop?.mod?.visibility === 'listed'
        ? clear('listed')
        : open(workshop?.mod ? { private: 'private', code: 'by share code', listed: '' }[workshop.mod.visibility] : 'nothing there'),
  };
  const order = Object.keys(WORDS) as Step[];
  const chosen = address.get('step') as Step | null;
  const step = chosen && order.includes(chosen) ? chosen : 'describe';
  return (
    <div className="page publish">
      <h1>Publish</h1>
      <div className="publish-grid">
        <nav className="publish-steps" aria-label="Steps of publishing">
          <ol>
            {order.map((one) => {
              const [tone, icon, word] = states[one];
              return (
                <li key={one}>
                  <button
                    className={step === one ? 'active' : ''}
                    aria-current={step === one ? 'step' : undefined}
                    onClick={() => setAddress({ step: one })}
                  >
                    <strong>{WORDS[one]}</strong>
                    <span className={`stamp ${tone}`} data-step={one}>
                      <Icon name={icon} /> {word}
                    </span>
                  </button>
                </li>
              );
            })}
          </ol>
        </nav>
        <div className="publish-step">
          {problem && step !== 'describe' && step !== 'check' && step !== 'package' && (
            <p className="severity warning text-wrap" role="alert">
              {problem}{' '}
              <button className="btn btn-quiet btn-sm py-0" onClick={refresh}>
                Ask again
              </button>
            </p>
          )}
          {step === 'describe' && (
            <>
              <Details manifest={manifest} crateId={crateId} changes={changes} />
              <LedgerTable crateId={crateId} />
            </>
          )}
          {step === 'check' && <CheckStep crateId={crateId} />}
          {step === 'package' && (
            <>
              <PicturesPanel crateId={crateId} />
              <PackagePanel crateId={crateId} />
              <CompareReleases crateId={crateId} />
            </>
          )}
          {step === 'upload' && <UploadStep crateId={crateId} changes={changes} uploads={uploads} workshop={workshop} refresh={refresh} />}
          {step === 'test' && <PlayerStep workshop={workshop} />}
          {step === 'list' && <ListStep crateId={crateId} workshop={workshop} refresh={refresh} />}
          {order.indexOf(step) < order.length - 1 && (
            <button className="btn btn-quiet mt-3" onClick={() => setAddress({ step: order[order.indexOf(step) + 1] })}>
              Next: {WORDS[order[order.indexOf(step) + 1]]} <Icon name="arrow-right" />
            </button>
          )}
        </div>
      </div>
    </div>
  );
}
