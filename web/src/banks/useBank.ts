import { useCallback, useEffect, useState } from 'react';
import type { BankDocument } from '@violet-crate/core/bank/document';
import type { BankReport, BankView } from '@violet-crate/core/bank/views';
import { getJson, message, request, sendJson } from '../api/http.ts';

const KEPT = 200;

/** A bank as it is edited: kept here with its history until it is written. */
export function useBank(crateId: string, id: string | null) {
  const [view, setView] = useState<BankView | null>(null);
  const [history, setHistory] = useState<{ states: BankDocument[]; at: number }>({ states: [], at: 0 });
  const [problem, setProblem] = useState('');

  const load = useCallback(async () => {
    if (id === null) return;
    try {
      const next = await getJson<BankView>(`/api/crates/${crateId}/banks/${id}?anyway=1`);
      setView(next);
      setHistory({ states: [next.document], at: 0 });
      setProblem('');
    } catch (error) {
      setView(null);
      setProblem(message(error));
    }
  }, [crateId, id]);
  useEffect(() => {
    void load();
  }, [load]);
  const changed = history.at > 0;

  const change = useCallback(
    (next: BankDocument) =>
      setHistory(({ states, at }) => ({ states: [...states.slice(Math.max(0, at + 1 - KEPT), at + 1), next], at: Math.min(at + 1, KEPT) })),
    [],
  );
  const go = useCallback((step: number) => setHistory(({ states, at }) => ({ states, at: Math.max(0, Math.min(states.length - 1, at + step)) })), []);
  const send = (plan: boolean, places: Record<string, number> = {}) =>
    sendJson<BankReport>('POST', `/api/crates/${crateId}/banks/${id}`, { document: history.states[history.at], places, plan });
  const reset = async () => {
    await request(`/api/crates/${crateId}/banks/${id}`, { method: 'DELETE' });
    await load();
  };
  return {
    view,
    problem,
    document: history.states.at(history.at) ?? null,
    changed,
    canUndo: history.at > 0,
    canRedo: history.at < history.states.length - 1,
    change,
    undo: () => go(-1),
    redo: () => go(1),
    plan: (places?: Record<string, number>) => send(true, places),
    write: async (places?: Record<string, number>) => {
      const report = await send(false, places);
      await load();
      return report;
    },
    reset,
  };
}
