import { useEffect, useMemo, useState } from 'react';
import { scriptTyped } from '../../state/scriptsSlice.ts';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';

interface History {
  states: string[];
  at: number;
}
/** Of files by crate and path: it outlives the page, and is as long as a map's. */
const histories = new Map<string, History>();
const KEPT = 300;

/** One file of game data as it is edited: kept by itself, undone step by step. Null where there is no such file. */
export function useText(crateId: string, path: string) {
  const text = useAppSelector((s) => (Object.hasOwn(s.crate.data, path) ? s.crate.data[path] : null));
  const dispatch = useAppDispatch();
  const [, again] = useState(0);
  const key = `${crateId} ${path}`;
  const history = useMemo(() => {
    const known = histories.get(key) ?? { states: [], at: -1 };
    histories.set(key, known);
    return known;
  }, [key]);
  useEffect(() => {
    // Somebody else changed it, or it was just opened.
    if (text === null || history.states[history.at] === text) return;
    history.states = [...history.states.slice(Math.max(0, history.at + 1 - KEPT), history.at + 1), text];
    history.at = history.states.length - 1;
    again((n) => n + 1);
  }, [text, history]);
  const put = (source: string) => {
    dispatch(scriptTyped({ crateId, path, source }));
  };
  const go = (step: number) => {
    const to = history.at + step;
    if (to < 0 || to >= history.states.length) return;
    history.at = to;
    put(history.states[to]);
    again((n) => n + 1);
  };
  return {
    text,
    canUndo: history.at > 0,
    canRedo: history.at < history.states.length - 1,
    change: put,
    undo: () => go(-1),
    redo: () => go(1),
  };
}
