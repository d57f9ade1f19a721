import { useMemo } from 'react';
import { budgetOf } from '@violet-crate/core/link/budget';
import { selectWorld } from '../../state/world.ts';
import { store, useAppSelector } from '../../state/store.ts';
import { useDocument } from '../editing/useDocument.ts';

const shownAs = (id: string, value: number) => (id === 'packageBytes' ? `${(value / 1048576).toFixed(1)} MiB` : value.toLocaleString('en'));

/** What the map costs against what the game is made for. */
export function BudgetPanel() {
  const { map, profile } = useDocument();
  const name = useAppSelector((s) => s.map.name);
  const lines = useMemo(() => {
    const world = selectWorld(store.getState());
    return map && world ? budgetOf(world, name) : [];
  }, [map, name]);
  return (
    <>
      <h2 className="m-0">Budget</h2>
      <p className="faint small">What {profile.title} is made for. The package is an estimate.</p>
      {lines.map((line) => {
        const share = line.limit ? line.used / line.limit : 0;
        return (
          <div key={line.id} className="mb-2">
            <div className="d-flex small">
              <span className="flex-grow-1">{line.label}</span>
              <span className="mono">
                {shownAs(line.id, line.used)}
                {line.limit !== null && <span className="faint"> of {shownAs(line.id, line.limit)}</span>}
                {share > 1 && <b className="text-warm"> over</b>}
              </span>
            </div>
            {line.limit !== null && (
              <meter className="w-100" min={0} max={line.limit} high={line.limit * 0.8} value={line.used} aria-label={line.label} />
            )}
          </div>
        );
      })}
    </>
  );
}
