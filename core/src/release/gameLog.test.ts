import { describe, expect, it } from '@jest/globals';
import { testProfile } from '../testing/world.ts';
import { fitLine, logFinding } from './gameLog.ts';

const { log } = testProfile().launch!;

describe('lines of a game’s log', () => {
  it('are findings with file and line where a pattern fits, the first one that does', () => {
    expect(logFinding(log, 'error: scripts/main.lua:12: attempt to call a nil value')).toMatchObject({
      severity: 'blocker',
      message: 'The game says: attempt to call a nil value.',
      place: { file: 'scripts/main.lua', line: 12 },
    });
    expect(logFinding(log, 'error: out of breath')).toMatchObject({ message: 'The game says: out of breath.' });
    expect(logFinding(log, 'refused: release.json: made for 2.3, this is 2.4')).toMatchObject({ place: { file: 'release.json' } });
    expect(logFinding(log, 'warning: no probes: props are dark')).toMatchObject({
      severity: 'warning',
      message: 'The game says: no probes: props are dark.',
    });
    expect(logFinding(log, 'ready: 12 objects')).toBeNull();
  });

  it('fit from start to end, with texts between that may hold anything', () => {
    expect(fitLine('[{file}] {message}', '[a.lua] x] y')).toEqual({ file: 'a.lua', message: 'x] y' });
    expect(fitLine('done', 'done')).toEqual({});
    expect(fitLine('done', 'done.')).toBeNull();
    expect(fitLine('{message} at {line}', 'here at twelve')).toBeNull();
    expect(fitLine('{file}:{line}', ':3')).toEqual({ file: '', line: '3' });
  });

  it('take time that grows with the line and not with its square', () => {
    const long = 'error: '.repeat(100_000);
    expect(fitLine('error: {file}:{line}: {message}', long)).toBeNull();
  });
});
