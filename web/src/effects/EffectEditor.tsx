import { useMemo, useState } from 'react';
import type { CrateWorld } from '@violet-crate/core/crate/world';
import {
  effectName,
  effectProblem,
  MOST_EMITTERS,
  newEmitter,
  readEffect,
  writeEffect,
  type Effect,
  type Emitter,
} from '@violet-crate/core/effect/document';
import { UnreadableInput } from '@violet-crate/core/unreadable';
import type { AssetSource } from '../api/assetUrl.ts';
import { Trouble } from '../common/Busy.tsx';
import { CheckField, NumberField, NumberInput } from '../common/fields.tsx';
import { FileButtons, undoKeys } from '../common/text/FileButtons.tsx';
import { useRemoveData } from '../common/text/useRemoveData.ts';
import { useText } from '../common/text/useText.ts';
import { Icon } from '../common/Icon.tsx';
import { useLibrary } from '../common/useLibrary.ts';
import { CostCard } from './CostCard.tsx';
import { EffectPreview } from './EffectPreview.tsx';
import { EmitterForm } from './EmitterForm.tsx';

interface Props {
  crateId: string;
  world: CrateWorld;
  source: AssetSource;
  path: string;
  gone(): void;
}

/** One effect: its emitters and their fields beside the preview, which shows every change while it is made. */
export function EffectEditor({ crateId, world, source, path, gone }: Props) {
  const file = useText(crateId, path);
  const remove = useRemoveData(crateId);
  const entries = useLibrary();
  const [chosen, setChosen] = useState(0);
  const [draft, setDraft] = useState<Emitter | null>(null);
  const [problem, setProblem] = useState('');
  const read = useMemo((): Effect | string => {
    try {
      return readEffect(file.text ?? '', path);
    } catch (error) {
      if (error instanceof UnreadableInput) return error.message;
      throw error;
    }
  }, [file.text, path]);
  const { profile } = world;
  const now = typeof read === 'string' ? 0 : Math.min(chosen, read.emitters.length - 1);
  const shown = useMemo(
    () => (typeof read === 'string' || !draft ? read : { ...read, emitters: read.emitters.map((one, i) => (i === now ? draft : one)) }),
    [read, draft, now],
  );
  if (typeof read === 'string' || typeof shown === 'string')
    return (
      <div>
        <Trouble>{typeof read === 'string' ? read : ''}</Trouble>
        <div className="data-bar">
          <FileButtons crateId={crateId} path={path} file={file} />
        </div>
      </div>
    );
  const unit = profile.unit.plural;
  /** Keeps only what can be read again; says why not. */
  const put = (next: Effect, choose = now) => {
    const wrong = effectProblem(next);
    setProblem(wrong ? `${wrong.says} ${wrong.hint}` : '');
    if (wrong) return;
    setChosen(choose);
    file.change(writeEffect(next));
  };
  const setEmitter = (emitter: Emitter) => {
    setDraft(null);
    // Children are named: they follow their emitter's name.
    const was = read.emitters[now].name;
    const renamed = (one: Emitter): Emitter =>
      one.children?.emitter === was && was !== emitter.name ? { ...one, children: { ...one.children, emitter: emitter.name } } : one;
    put({ ...read, emitters: read.emitters.map((one, i) => (i === now ? emitter : renamed(one))) });
  };
  const free = (base: string): string => {
    const names = new Set(read.emitters.map(({ name }) => name));
    for (let n = 2; ; n++) if (!names.has(`${base} ${n}`)) return `${base} ${n}`;
  };
  const typical = Math.max(0.01, read.emitters[0].size.from[1]);
  return (
    <div className="effect" onKeyDown={undoKeys(file)}>
      <header className="data-bar">
        <h1 className="visually-hidden">{read.title || effectName(path)}</h1>
        <input
          key={read.title}
          className="form-control form-control-sm"
          style={{ width: '14rem' }}
          aria-label="Title of the effect"
          defaultValue={read.title}
          onBlur={({ target }) => target.value !== read.title && put({ ...read, title: target.value.slice(0, 120) })}
        />
        <span className="faint small mono">{effectName(path)}</span>
        <FileButtons crateId={crateId} path={path} file={file} />
        <button
          className="btn btn-quiet btn-sm ms-auto"
          onClick={() => void remove(path).then((trouble) => (trouble ? setProblem(trouble) : gone()))}
        >
          <Icon name="trash" /> Remove the effect
        </button>
      </header>
      {problem && <Trouble>{problem}</Trouble>}
      <div className="effect-split">
        <div className="effect-left">
          <EffectPreview effect={shown} profile={profile} source={source} />
          <CostCard effect={read} profile={profile} assets={world.crate.manifest.assets} />
          <section className="panel p-2 fields" aria-label="The whole effect">
            <h2>The whole effect</h2>
            <NumberField
              label="Length of a round"
              unit="s"
              min={0.05}
              max={600}
              value={read.seconds}
              onCommit={(seconds) => put({ ...read, seconds })}
            />
            <CheckField label="Goes round and round" value={read.loop} onCommit={(loop) => put({ ...read, loop })} />
            <NumberField label="Has run before" unit="s" min={0} max={30} value={read.warmUp} onCommit={(warmUp) => put({ ...read, warmUp })} />
            <NumberField
              label="Chance (seed)"
              min={0}
              max={0xffffffff}
              value={read.seed}
              onCommit={(seed) => put({ ...read, seed: Math.round(seed) })}
            />
            <div className="row-field align-items-start">
              <span>From afar</span>
              <div>
                {read.levels.map(({ beyond, share }, i) => (
                  <div key={i} className="d-flex gap-1 align-items-center mb-1">
                    <NumberInput
                      name={`Level ${i + 1}: beyond, ${unit}`}
                      min={0}
                      value={beyond}
                      onCommit={(value) =>
                        put({
                          ...read,
                          levels: read.levels.map((one, n) => (n === i ? { ...one, beyond: value } : one)).sort((a, b) => a.beyond - b.beyond),
                        })
                      }
                    />
                    <NumberInput
                      name={`Level ${i + 1}: share of the births`}
                      min={0}
                      max={1}
                      value={share}
                      onCommit={(value) => put({ ...read, levels: read.levels.map((one, n) => (n === i ? { ...one, share: value } : one)) })}
                    />
                    <button
                      className="btn btn-quiet btn-sm"
                      aria-label={`Remove level ${i + 1}`}
                      onClick={() => put({ ...read, levels: read.levels.filter((_, n) => n !== i) })}
                    >
                      ×
                    </button>
                  </div>
                ))}
                <button
                  className="btn btn-quiet btn-sm"
                  disabled={read.levels.length >= 4}
                  onClick={() => {
                    const last = read.levels[read.levels.length - 1];
                    put({
                      ...read,
                      levels: [...read.levels, { beyond: last ? last.beyond * 2 + 1 : Math.round(20 / profile.unit.metres), share: last ? 0 : 0.5 }],
                    });
                  }}
                >
                  Add a level
                </button>
              </div>
            </div>
          </section>
        </div>
        <div className="effect-right panel fields">
          <div className="emitter-tabs">
            <div className="emitter-tabs m-0" role="tablist" aria-label="Emitters">
              {read.emitters.map(({ name }, i) => (
                <button
                  key={name}
                  role="tab"
                  aria-selected={i === now}
                  className={`btn btn-quiet btn-sm ${i === now ? 'active' : ''}`}
                  onClick={() => setChosen(i)}
                >
                  {name}
                </button>
              ))}
            </div>
            <button
              className="btn btn-quiet btn-sm"
              aria-label="Add an emitter"
              title="Add an emitter"
              disabled={read.emitters.length >= MOST_EMITTERS}
              onClick={() => put({ ...read, emitters: [...read.emitters, newEmitter(free('Emitter'), typical)] }, read.emitters.length)}
            >
              <Icon name="plus-lg" />
            </button>
            <button
              className="btn btn-quiet btn-sm"
              aria-label="Copy this emitter"
              title="Copy this emitter"
              disabled={read.emitters.length >= MOST_EMITTERS}
              onClick={() =>
                put(
                  { ...read, emitters: [...read.emitters, { ...read.emitters[now], name: free(read.emitters[now].name.slice(0, 50)) }] },
                  read.emitters.length,
                )
              }
            >
              <Icon name="copy" />
            </button>
            <button
              className="btn btn-quiet btn-sm"
              aria-label="Remove this emitter"
              title="Remove this emitter"
              disabled={read.emitters.length < 2}
              onClick={() => {
                const { name } = read.emitters[now];
                const left = read.emitters
                  .filter((_, i) => i !== now)
                  .map((one) => (one.children?.emitter === name ? { ...one, children: undefined } : one));
                put({ ...read, emitters: left }, Math.max(0, now - 1));
              }}
            >
              <Icon name="trash" />
            </button>
          </div>
          <EmitterForm
            key={read.emitters[now].name}
            effect={read}
            emitter={read.emitters[now]}
            unit={unit}
            entries={entries}
            onDraft={setDraft}
            onCommit={setEmitter}
          />
        </div>
      </div>
    </div>
  );
}
