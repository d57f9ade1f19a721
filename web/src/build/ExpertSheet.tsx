import { parameterProblem, PARAMETERS, type BuildParameters, type Parameter } from '@violet-crate/core/stages/contract/parameters';
import { useEffect, useState } from 'react';
import { Icon } from '../common/Icon.tsx';

interface Props {
  /** What the chosen quality takes. */
  defaults: BuildParameters;
  /** What is to differ from it. */
  given: Partial<BuildParameters>;
  onChange(given: Partial<BuildParameters>): void;
  unit: string;
  anyway: boolean;
  onAnyway(anyway: boolean): void;
}

/** Every parameter of a build with what it does and costs. */
export function ExpertSheet({ defaults, given, onChange, unit, anyway, onAnyway }: Props) {
  const set = (parameter: Parameter, value: string | null) => {
    const next: Record<string, number | string | undefined> = { ...given };
    if (value === null || String(defaults[parameter.id]) === value) delete next[parameter.id];
    else next[parameter.id] = parameter.choices ? value : Number(value);
    onChange(next as Partial<BuildParameters>);
  };
  return (
    <div className="px-3 pb-3" role="group" aria-label="Parameters of the build">
      <div className="expert">
        {PARAMETERS.map((parameter) => (
          <ParameterField
            key={parameter.id}
            parameter={parameter}
            usual={String(defaults[parameter.id])}
            own={given[parameter.id] === undefined ? null : String(given[parameter.id])}
            unit={unit}
            onChange={(value) => set(parameter, value)}
          />
        ))}
        <div>
          <label>
            <input type="checkbox" checked={anyway} onChange={(e) => onAnyway(e.target.checked)} /> Build anyway
          </label>
          <p className="faint small m-0">
            Go on in spite of blockers, as far as the stages can: with a leak, the outside is lit and drawn too. For looking, not for publishing.
          </p>
        </div>
      </div>
    </div>
  );
}

interface FieldProps {
  parameter: Parameter;
  /** What it is at the chosen quality. */
  usual: string;
  /** What it is to be instead, or null. */
  own: string | null;
  unit: string;
  /** Null goes back to the quality's value. */
  onChange(value: string | null): void;
}

function ParameterField({ parameter, usual, own, unit, onChange }: FieldProps) {
  const id = `parameter-${parameter.id}`;
  const value = own ?? usual;
  // What is being typed may be nothing, or no fitting number yet.
  const [draft, setDraft] = useState(value);
  useEffect(() => setDraft(value), [value]);
  const problem = parameterProblem(parameter, draft);
  const type = (text: string) => {
    setDraft(text);
    if (parameterProblem(parameter, text) === null) onChange(text);
  };
  return (
    <div className={own === null ? '' : 'changed'}>
      <label htmlFor={id}>
        {parameter.label}
        <span className="faint"> · {parameter.stage}</span>
      </label>
      <div className="d-flex gap-2 align-items-center">
        {parameter.choices ? (
          <select id={id} className="form-select form-select-sm" value={value} onChange={(e) => onChange(e.target.value)}>
            {parameter.choices.map((choice) => (
              <option key={choice}>{choice}</option>
            ))}
          </select>
        ) : (
          <input
            id={id}
            type="number"
            className={`form-control form-control-sm ${problem ? 'is-invalid' : ''}`}
            min={parameter.min}
            max={parameter.max}
            step={parameter.step}
            value={draft}
            aria-invalid={problem !== null}
            onChange={(e) => type(e.target.value)}
            onBlur={() => setDraft(value)}
          />
        )}
        {parameter.unit && <span className="faint small">{unit}</span>}
        <button
          className="btn btn-quiet btn-sm"
          disabled={own === null}
          title={`Back to ${usual}`}
          aria-label={`${parameter.label} back to ${usual}`}
          onClick={() => onChange(null)}
        >
          <Icon name="arrow-counterclockwise" />
        </button>
      </div>
      {problem && <p className="severity warning small m-0">It {problem}.</p>}
      <p className="faint small m-0">{parameter.explains}</p>
    </div>
  );
}
