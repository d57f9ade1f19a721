/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { cleanup, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ConsoleLine } from '@violet-crate/core/trial/console';
import { renderIn } from '../testing/render.tsx';
import { ConsolePanel } from './ConsolePanel.tsx';

afterEach(cleanup);
const user = () => userEvent.setup();
const LINES: ConsoleLine[] = [
  { time: 0, kind: 'say', text: 'The tide is out.' },
  { time: 1.25, kind: 'signal', text: 'crank.turned → sluice.raise' },
  { time: 2, kind: 'error', text: 'scripts/main.lua:12: attempt to index a nil value (in crank_turned)' },
  { time: 3, kind: 'system', text: 'Gliding: solids do not stop you.' },
  { time: 4, kind: 'signal', text: 'sluice.raised → flood.drain' },
];
const show = (lines: readonly ConsoleLine[] = LINES) => renderIn(<ConsolePanel crateId="c1" lines={lines} />);
const log = () => within(screen.getByRole('log'));
const texts = () => [...screen.getByRole('log').children].map((line) => line.textContent);

describe('the console of a test run', () => {
  it('shows what was said with its time', () => {
    show();
    expect(texts()).toHaveLength(5);
    expect(texts()[1]).toBe('1.3 crank.turned → sluice.raise');
  });

  it('leaves out kinds, and finds words whatever their case', async () => {
    show();
    await user().click(screen.getByRole('button', { name: 'Signals' }));
    expect(screen.getByRole('button', { name: 'Signals' }).getAttribute('aria-pressed')).toBe('false');
    expect(texts()).toHaveLength(3);
    await user().click(screen.getByRole('button', { name: 'Signals' }));
    await user().type(screen.getByRole('searchbox'), 'SLUICE raise');
    expect(texts()).toEqual(['1.3 crank.turned → sluice.raise', '4.0 sluice.raised → flood.drain']);
    await user().type(screen.getByRole('searchbox'), ' nowhere');
    expect(texts()).toEqual(['Nothing of what was said matches.']);
  });

  it('an error leads to its line in the editor', () => {
    show();
    expect(log().getByRole('link', { name: 'scripts/main.lua:12' }).getAttribute('href')).toBe('/crates/c1/scripts?file=scripts%2Fmain.lua&line=12');
    expect(log().getAllByRole('link')).toHaveLength(1);
  });

  it('of thousands of lines the last are in the page, and the rest is counted', () => {
    show(Array.from({ length: 2000 }, (_, i): ConsoleLine => ({ time: i, kind: 'say', text: `line ${i}` })));
    expect(texts()).toHaveLength(201);
    expect(texts()[0]).toBe('1800 earlier lines are left out.');
    expect(texts().at(-1)).toBe('1999.0 line 1999');
  });

  it('runs a line on Enter, and brings back what was typed by the arrows, each once', async () => {
    const ran: string[] = [];
    renderIn(<ConsolePanel crateId="c1" lines={LINES} onRun={(text) => ran.push(text)} />);
    const field = screen.getByLabelText<HTMLInputElement>('Run a line of Lua');
    for (const text of ['lit', 'turns', 'lit']) await user().type(field, `${text}{Enter}`);
    await user().type(field, '   {Enter}');
    expect(ran).toEqual(['lit', 'turns', 'lit']);
    await user().clear(field);
    await user().type(field, '{ArrowUp}');
    expect(field.value).toBe('lit');
    await user().type(field, '{ArrowUp}{ArrowUp}');
    expect(field.value).toBe('turns');
    await user().type(field, '{ArrowDown}{ArrowDown}');
    expect(field.value).toBe('');
  });

  it('takes no line while there is no run', () => {
    show();
    expect(screen.getByLabelText<HTMLInputElement>('Run a line of Lua').disabled).toBe(true);
  });

  it('says what will appear while nothing was said', () => {
    show([]);
    expect(texts()).toEqual(['What scripts print and signals do appears here.']);
  });
});
