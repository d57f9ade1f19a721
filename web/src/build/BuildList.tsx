import type { Build } from '../api/types.ts';
import { bytes, time } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';

interface Props {
  builds: Build[];
  crateId: string;
  shown: string;
  onShow(id: string): void;
}

const seconds = (ms: number): string => (ms < 1000 ? `${ms} ms` : `${(ms / 1000).toFixed(1)} s`);

/** The builds that are kept, each with its picture; one of them is shown above. */
export function BuildList({ builds, crateId, shown, onShow }: Props) {
  return (
    <ul className="build-list" aria-label="Builds that are kept">
      {builds.map((build) => {
        const took = build.stages.reduce((sum, stage) => sum + stage.milliseconds, 0);
        const most = Math.max(0, ...build.stages.map((stage) => stage.memory ?? 0));
        return (
          <li key={build.id}>
            <button
              className={`btn btn-quiet ${build.id === shown ? 'active' : ''}`}
              aria-pressed={build.id === shown}
              onClick={() => onShow(build.id)}
            >
              {build.picture ? (
                <img src={`/api/crates/${crateId}/builds/${build.id}/picture`} alt="" width={96} height={54} loading="lazy" />
              ) : (
                <span className="none">
                  <Icon name="x-octagon" />
                </span>
              )}
              <span>
                {build.map}, {build.quality}
                <span className="faint d-block small">
                  {time(build.createdAt)} · {build.ok ? (build.fresh ? 'fresh' : 'stale') : 'stopped'}
                </span>
                <span className="faint d-block small mono">
                  {seconds(took)}
                  {most > 0 && ` · ${bytes(most)}`}
                </span>
              </span>
            </button>
          </li>
        );
      })}
    </ul>
  );
}
