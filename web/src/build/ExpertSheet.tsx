import { PARAMETERS, type BuildParameters, type Parameter } from '@violet-crate/core/build/parameters';
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
  const set = (parameter: Parameter, value: string) => {
    const next: Record<string, number | string | undefined> = { ...given, [parameter.id]: parameter.choices ? value : Number(value) };
    if (value === '' || String(defaults[parameter.id]) === value) delete next[parameter.id];
    onChange(next as Partial<BuildParameters>);
  };
  return (
    <div className="px-3 pb-3" role="group" aria-label="Parameters of the build">
      <div className="expert">
        {PARAMETERS.map((parameter) => {
          const id = `parameter-${parameter.id}`;
          const own = given[parameter.id];
          const value = String(own ?? defaults[parameter.id]);
          return (
            <div key={parameter.id} className={own === undefined ? '' : 'changed'}>
              <label htmlFor={id}>
                {parameter.label}
                <span className="faint"> · {parameter.stage}</span>
              </label>
              <div className="d-flex gap-2 align-items-center">
                {parameter.choices ? (
                  <select id={id} className="form-select form-select-sm" value={value} onChange={(e) => set(parameter, e.target.value)}>
                    {parameter.choices.map((choice) => (
                      <option key={choice}>{choice}</option>
                    ))}
                  </select>
                ) : (
                  <input
                    id={id}
                    type="number"
                    className="form-control form-control-sm"
                    min={parameter.min}
                    max={parameter.max}
                    step={parameter.step}
                    value={value}
                    onChange={(e) => set(parameter, e.target.value)}
                  />
                )}
                {parameter.unit && <span className="faint small">{unit}</span>}
                <button
                  className="btn btn-quiet btn-sm"
                  disabled={own === undefined}
                  title={`Back to ${defaults[parameter.id]}`}
                  aria-label={`${parameter.label} back to ${defaults[parameter.id]}`}
                  onClick={() => set(parameter, '')}
                >
                  <Icon name="arrow-counterclockwise" />
                </button>
              </div>
              <p className="faint small m-0">{parameter.explains}</p>
            </div>
          );
        })}
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
