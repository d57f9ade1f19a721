import { useMemo } from 'react';
import { classOf } from '@violet-crate/core/profile/schema';
import { linesCovered } from '@violet-crate/core/trial/coverage';
import { useAppSelector } from '../state/store.ts';
import type { ScriptSurroundings } from './luaHelp.ts';
import type { Margins } from './margins.ts';

/** What the scripts of the open crate are read against. */
export function useAround(): ScriptSurroundings | null {
  const { profile, scripts } = useAppSelector((s) => s.crate);
  const objects = useAppSelector((s) => s.map.map?.objects);
  return useMemo(() => {
    if (!profile) return null;
    const ids = (list: readonly { id: string }[] = []) => list.map(({ id }) => id);
    return {
      profile,
      scripts,
      ofObjects: new Set(Object.values(objects ?? {}).flatMap(({ script }) => script ?? [])),
      objects: new Map(
        Object.values(objects ?? {}).map(({ name, class: id }) => {
          const own = classOf(profile, id);
          return [name, { actions: ids(own?.actions), properties: ids(own?.properties) }] as const;
        }),
      ),
    };
  }, [profile, scripts, objects]);
}

/** Log points of a script, and how often its lines ran in the walks or the explorer's runs. */
export function useMargins(path: string): Margins {
  const { logPoints, coverage } = useAppSelector((s) => s.looking);
  const crateId = useAppSelector((s) => s.crate.view?.id);
  const source = useAppSelector((s) => s.crate.scripts[path] ?? '');
  return useMemo(
    () => ({
      logs: new Map(logPoints.flatMap(({ file, line, expression }) => (file === path ? [[line, expression] as const] : []))),
      covered: coverage && coverage.crateId === crateId ? linesCovered(path, source, coverage.data.lines) : null,
    }),
    [logPoints, coverage, crateId, path, source],
  );
}
