import { useNavigate } from 'react-router';
import type { Finding, Fix } from '@violet-crate/core/finding';
import { isData } from '@violet-crate/core/crate/contents';
import { isEffect } from '@violet-crate/core/effect/document';
import { withLine } from '@violet-crate/core/document/lineFix';
import { copyOf } from '@violet-crate/core/map/prefab';
import { thingOfEntry } from '@violet-crate/core/link/thing';
import { message, sendJson } from '../api/http.ts';
import { mendSetup } from '../api/mendSetup.ts';
import { useCrateChange } from './useCrateChange.ts';
import { refreshSetup } from '../state/crateSlice.ts';
import { edited, prefabOpened } from '../state/mapSlice.ts';
import { scriptTyped } from '../state/scriptsSlice.ts';
import { selected, shown, viewChanged } from '../state/viewSlice.ts';
import { useAppDispatch, useAppSelector } from '../state/store.ts';

/** *Show* and *Fix* of findings. */
export function useFindingActions() {
  const dispatch = useAppDispatch();
  const navigate = useNavigate();
  const view = useAppSelector((s) => s.crate.view);
  const map = useAppSelector((s) => s.map.map);
  const openMap = useAppSelector((s) => s.map.name);
  const data = useAppSelector((s) => s.crate.data);
  const changeCrate = useCrateChange();

  /** What belongs to a map that is not open: its ids mean other members in the one that is. */
  const elsewhere = ({ place }: Finding): boolean => place?.map !== undefined && place.map !== openMap;

  const canShow = (finding: Finding): boolean => (finding.place !== undefined || finding.stage === 'setup') && !elsewhere(finding);

  const canFix = (finding: Finding, by: Fix): boolean => by.kind !== 'edit' || (finding.place?.map !== undefined && !elsewhere(finding));

  const show = (finding: Finding): void => {
    if (!view) return;
    const place = finding.place ?? {};
    const to = (path: string) => void navigate(`/crates/${view.id}/${path}`);
    if (place.map !== undefined) {
      // What belongs to a copy of a prefab is shown by its copy.
      if (place.sequence) dispatch(viewChanged({ panel: 'people', scene: place.sequence }));
      const copy = place.copy ?? (map && (place.object ?? place.solid) ? copyOf(map, (place.object ?? place.solid)!) : null);
      if (copy) dispatch(selected({ kind: 'copies', ids: [copy] }));
      else if (place.object) dispatch(selected({ kind: 'objects', ids: [place.object] }));
      else if (place.solid) dispatch(selected({ kind: 'solids', ids: [place.solid] }));
      else if (place.decal) dispatch(selected({ kind: 'decals', ids: [place.decal] }));
      else if (place.overlay) dispatch(selected({ kind: 'overlays', ids: [place.overlay] }));
      const point = place.point ?? (place.object ? map?.objects[place.object]?.position : undefined);
      dispatch(shown({ point, trail: place.trail ?? null }));
      dispatch(viewChanged({ tool: 'select' }));
      to('map');
    } else if (place.file?.startsWith('scripts/')) to(`scripts?file=${encodeURIComponent(place.file)}&line=${place.line ?? 1}`);
    else if (place.file !== undefined && isEffect(place.file)) to(`effects?file=${encodeURIComponent(place.file)}`);
    else if (place.file !== undefined && isData(place.file)) to(`data?file=${encodeURIComponent(place.file)}&line=${place.line ?? 1}`);
    else if (place.file === 'crate.json') to('publish');
    else if (finding.stage === 'links' && place.file) to(`links?thing=${encodeURIComponent(thingOfEntry(place.file))}`);
    else if (finding.stage === 'setup') to('setup');
    else to(`assets?file=${encodeURIComponent(place.file ?? '')}&code=${finding.code}`);
  };

  /** @param by one of its ways; the first without it. Answers a sentence when it failed. */
  const fix = async (finding: Finding, by = finding.fix): Promise<string | null> => {
    if (!view || !by) return null;
    if (!canFix(finding, by)) return `This is in map ${finding.place?.map ?? '?'}, which is not open.`;
    try {
      if (by.kind === 'edit') {
        // Fixes are edits of the map, not of a prefab that happens to be open.
        dispatch(prefabOpened(null));
        dispatch(edited(by.edit));
      }
      if (by.kind === 'line') {
        const source = withLine(data[by.file] ?? '', by.line, by.was, by.to);
        if (source === null) return 'It was changed meanwhile: the line is no longer there.';
        dispatch(scriptTyped({ crateId: view.id, path: by.file, source }));
      }
      if (by.kind === 'crate') await changeCrate(view.id, [by.change]);
      else if (by.kind === 'reconvert') await sendJson('POST', `/api/crates/${view.id}/assets/reconvert`, { path: by.file, options: by.options });
      else if (by.kind === 'reimport') await sendJson('POST', `/api/crates/${view.id}/watch/take`, { fresh: false });
      else if (by.kind === 'setup') {
        await mendSetup(view, by.action);
        await dispatch(refreshSetup(view.id));
      }
      return null;
    } catch (error) {
      return message(error);
    }
  };

  return { canShow, canFix, show, fix };
}
