import { describe, expect, it } from '@jest/globals';
import { completions, isCommand, readCommand, type ConsoleWords } from './consoleCommands.ts';

const words: ConsoleWords = {
  objects: new Map([
    ['crank', { position: [1, 2, 3], events: ['turned'], actions: [], properties: [] }],
    ['cellar_lamp', { position: [4, 5, 6], events: ['lit', 'doused'], actions: ['light', 'douse'], properties: ['lit', 'colour'] }],
    ['sign', { position: [0, 0, 0], events: [], actions: [], properties: [] }],
  ]),
  functions: ['say', 'set', 'fire', 'crank_turned'],
};

describe('commands of the console', () => {
  it('go to an object or a point, have one send an event, and rule time', () => {
    expect(readCommand('/go crank', words)).toEqual({ command: { do: 'go', to: [1, 2, 3] } });
    expect(readCommand('  /go 10 -4 8.5 ', words)).toEqual({ command: { do: 'go', to: [10, -4, 8.5] } });
    expect(readCommand('/fire cellar_lamp doused', words)).toEqual({ command: { do: 'fire', object: 'cellar_lamp', event: 'doused' } });
    expect(readCommand('/speed 0.1', words)).toEqual({ time: { speed: 0.1 } });
    expect(readCommand('/pause', words)).toEqual({ time: 'pause' });
    expect(readCommand('/fly', words)).toEqual({ glide: true });
  });

  it('say what is wrong, and how it should be', () => {
    expect(readCommand('/jump', words)).toEqual({ wrong: 'There is no command /jump. /help lists them.' });
    expect(readCommand('/constructor', words)).toHaveProperty('wrong');
    expect(readCommand('/go nowhere', words)).toEqual({ wrong: 'There is no object "nowhere". /go OBJECT or /go X Y Z puts you there.' });
    expect(readCommand('/fire crank lit', words)).toEqual({ wrong: 'crank has the events turned. /fire OBJECT EVENT has it send an event.' });
    expect(readCommand('/fire sign read', words)).toMatchObject({ wrong: expect.stringContaining('sign has no events') });
    expect(readCommand('/speed 3', words)).toHaveProperty('wrong');
  });

  it('help lists them all', () => {
    const help = readCommand('/help', words);
    expect('help' in help && help.help.length).toBe(7);
    expect(isCommand(' /x')).toBe(true);
    expect(isCommand('1 / 2')).toBe(false);
  });
});

describe('how a line could go on', () => {
  it('commands, then what they ask for', () => {
    expect(completions('/f', words)).toEqual(['/fire', '/fly']);
    expect(completions('/go c', words)).toEqual(['/go crank', '/go cellar_lamp']);
    expect(completions('/fire cellar_lamp d', words)).toEqual(['/fire cellar_lamp doused']);
    expect(completions('/pause x', words)).toEqual([]);
  });

  it('functions, objects in quotes, and their properties or actions', () => {
    expect(completions('cra', words)).toEqual(['crank_turned']);
    expect(completions('x = get("ce', words)).toEqual(['x = get("cellar_lamp']);
    expect(completions('get("cellar_lamp", "l', words)).toEqual(['get("cellar_lamp", "lit']);
    expect(completions('fire("cellar_lamp", "', words)).toEqual(['fire("cellar_lamp", "light', 'fire("cellar_lamp", "douse']);
    expect(completions('', words)).toEqual([]);
    expect(completions('1 + 2', words)).toEqual([]);
  });
});
