import { useState } from 'react';
import type { GameMap, Signal } from '@violet-crate/core/document/schema';
import { classOf, type Profile } from '@violet-crate/core/profile/schema';
import { globalFunctions } from '@violet-crate/core/script/check';
import { Icon } from '../../common/Icon.tsx';
import { useAppDispatch, useAppSelector } from '../../state/store.ts';
import { connectSignal } from '../editing/edits.ts';
import { edited } from '../../state/mapSlice.ts';
import { selected } from '../../state/viewSlice.ts';

const target = (map: GameMap, signal: Signal): string =>
  'script' in signal.to ? `${signal.to.script}()` : `${map.objects[signal.to.object]?.name ?? 'gone'} · ${signal.to.action}`;

/** What an object's events cause, and who acts on it; both can be followed and removed. */
export function SignalEditor({ id, map, profile }: { id: string; map: GameMap; profile: Profile }) {
  const dispatch = useAppDispatch();
  const objectClass = classOf(profile, map.objects[id].class);
  const outgoing = Object.entries(map.signals).filter(([, s]) => s.from === id);
  const incoming = Object.entries(map.signals).filter(([, s]) => 'object' in s.to && s.to.object === id);
  const drop = (signalId: string) => dispatch(edited({ name: 'remove signal', changes: [{ of: 'signals', id: signalId, to: null }] }));
  const go = (object: string) => dispatch(selected({ kind: 'objects', ids: [object] }));
  return (
    <>
      <h3>Signals</h3>
      {outgoing.map(([signalId, signal]) => (
        <div className="signal-row" key={signalId} data-signal={signalId}>
          <Icon name="lightning-charge" /> {signal.event} <Icon name="arrow-right" />
          {'object' in signal.to ? (
            <button className="btn btn-link btn-sm p-0" onClick={() => 'object' in signal.to && go(signal.to.object)}>
              {target(map, signal)}
            </button>
          ) : (
            <code>{target(map, signal)}</code>
          )}
          {signal.value !== undefined && <span className="faint">with “{signal.value}”</span>}
          {signal.delay > 0 && <span className="faint">after {signal.delay} s</span>}
          <button
            className="btn btn-quiet btn-sm py-0 ms-auto"
            aria-label={`Remove the signal to ${target(map, signal)}`}
            onClick={() => drop(signalId)}
          >
            <Icon name="x" />
          </button>
        </div>
      ))}
      {outgoing.length === 0 && <div className="faint small">Its events cause nothing yet.</div>}
      {objectClass && objectClass.events.length > 0 && <NewSignal key={id} id={id} map={map} profile={profile} />}
      <h3>Who acts on this?</h3>
      {incoming.length === 0 && <div className="faint small">No signal does.</div>}
      {incoming.map(([signalId, signal]) => (
        <div className="signal-row" key={signalId}>
          <button className="btn btn-link btn-sm p-0" onClick={() => go(signal.from)}>
            {map.objects[signal.from]?.name ?? 'gone'}
          </button>
          · {signal.event} <Icon name="arrow-right" /> {'object' in signal.to && signal.to.action}
          <button className="btn btn-quiet btn-sm py-0 ms-auto" aria-label="Remove this signal" onClick={() => drop(signalId)}>
            <Icon name="x" />
          </button>
        </div>
      ))}
    </>
  );
}

function NewSignal({ id, map, profile }: { id: string; map: GameMap; profile: Profile }) {
  const dispatch = useAppDispatch();
  const scripts = useAppSelector((s) => s.crate.scripts);
  const functions = globalFunctions(scripts).filter((name) => name !== profile.scripts.startup);
  const events = classOf(profile, map.objects[id].class)!.events;
  const [open, setOpen] = useState(false);
  const [event, setEvent] = useState(classOf(profile, map.objects[id].class)!.useEvent ?? events[0].id);
  const [to, setTo] = useState('');
  const [value, setValue] = useState('');
  const [delay, setDelay] = useState('0');
  if (!open)
    return (
      <button className="btn btn-quiet btn-sm mt-1" onClick={() => setOpen(true)}>
        <Icon name="plus-lg" /> Connect a signal
      </button>
    );
  const targets = Object.entries(map.objects).flatMap(([objectId, object]) =>
    (classOf(profile, object.class)?.actions ?? []).map((action) => ({
      key: `object:${objectId}:${action.id}`,
      label: `${object.name} · ${action.label}`,
    })),
  );
  const connect = () => {
    const [kind, name, action] = to.split(':');
    const signal: Signal = {
      from: id,
      event,
      to: kind === 'script' ? { script: name } : { object: name, action },
      delay: Math.max(0, Number(delay) || 0),
      ...(value ? { value } : {}),
    };
    dispatch(edited(connectSignal(map, signal)));
    setOpen(false);
  };
  return (
    <div className="border rounded p-2 mt-1">
      <div className="d-flex gap-1 mb-1">
        <select className="form-select" aria-label="Event" value={event} onChange={(e) => setEvent(e.target.value)}>
          {events.map((e) => (
            <option key={e.id} value={e.id}>
              When {e.label.toLowerCase()}
            </option>
          ))}
        </select>
        <select className="form-select" aria-label="Target" value={to} onChange={(e) => setTo(e.target.value)}>
          <option value="">do …</option>
          <optgroup label="Script functions">
            {functions.map((name) => (
              <option key={name} value={`script:${name}`}>
                {name}()
              </option>
            ))}
          </optgroup>
          <optgroup label="Objects">
            {targets.map((t) => (
              <option key={t.key} value={t.key}>
                {t.label}
              </option>
            ))}
          </optgroup>
        </select>
      </div>
      <div className="d-flex gap-1">
        <input className="form-control" aria-label="Value" placeholder="Value (optional)" value={value} onChange={(e) => setValue(e.target.value)} />
        <input
          className="form-control"
          aria-label="Delay in seconds"
          title="Delay in seconds"
          style={{ maxWidth: '4rem' }}
          value={delay}
          onChange={(e) => setDelay(e.target.value)}
        />
        <button className="btn btn-primary" disabled={!to} onClick={connect}>
          Connect
        </button>
        <button className="btn btn-quiet" onClick={() => setOpen(false)} aria-label="Cancel">
          <Icon name="x-lg" />
        </button>
      </div>
    </div>
  );
}
