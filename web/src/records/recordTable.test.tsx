/** @jest-environment ./web/src/testing/documentEnvironment.mjs */
import { afterEach, describe, expect, it } from '@jest/globals';
import { act, cleanup, fireEvent, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { RecordTable, type CellChange, type RecordColumn } from './RecordTable.tsx';

afterEach(cleanup);
// Nothing has a size here, and rows that are not seen are not made.
Object.defineProperty(HTMLElement.prototype, 'offsetHeight', { configurable: true, value: 600 });
Object.defineProperty(HTMLElement.prototype, 'offsetWidth', { configurable: true, value: 800 });

const columns: RecordColumn[] = [
  { id: 'name', title: 'Name', kind: 'text' },
  { id: 'level', title: 'Level', kind: 'number' },
  { id: 'contest', title: 'Contest', kind: 'choice', choices: { 0: 'none', 1: 'wits' } },
  { id: 'party', title: 'Party', kind: 'list' },
];
const rows = ['Ada', 'Bram', 'Cole'].map((name, n) => ({ n, cells: { name, level: 30 - n, contest: n % 2, party: n } }));

function show(query = '') {
  const changes: CellChange[][] = [];
  render(
    <RecordTable label="People" columns={columns} rows={rows} query={query} chosen={0} choose={() => {}} change={(some) => changes.push(some)} />,
  );
  return changes;
}
const cell = (at: string) => document.querySelector<HTMLElement>(`[data-cell="${at}"]`)!;

describe('a sheet', () => {
  it('says choices in words and lists by their number; searching and sorting keep the numbers of rows', async () => {
    show();
    expect([cell('1.contest').textContent, cell('2.party').textContent]).toEqual(['wits', '2 rows']);
    await userEvent.click(screen.getByRole('button', { name: 'Level' }));
    await userEvent.click(screen.getByRole('button', { name: 'Level' }));
    const first = () => document.querySelector('tbody [data-cell]')!.getAttribute('data-cell');
    expect(['0.name', '2.name']).toContain(first());
    cleanup();
    show('cole');
    expect(document.querySelectorAll('tbody [data-cell$=".name"]')).toHaveLength(1);
    cleanup();
    show('nobody');
    expect(screen.getByText('No row has these words.')).toBeTruthy();
  });

  it('is gone through with arrows, edited by typing, left with Escape', async () => {
    const changes = show();
    await userEvent.click(cell('0.name'));
    await userEvent.keyboard('{ArrowRight}{ArrowDown}');
    expect(cell('1.level').dataset.at).toBe('');
    await userEvent.keyboard('42{Enter}');
    expect(changes).toEqual([[{ n: 1, column: 'level', text: '42' }]]);
    await userEvent.keyboard('7{Escape}');
    expect(changes).toHaveLength(1);
    await userEvent.click(cell('0.party'));
    await userEvent.keyboard('9{Enter}');
    expect(changes).toHaveLength(1);
  });

  it('is filled down over a range, and takes what is pasted as far as there are cells', async () => {
    const changes = show();
    await userEvent.click(cell('0.level'));
    await userEvent.keyboard('{Shift>}{ArrowDown}{ArrowDown}{/Shift}');
    await userEvent.keyboard('{Control>}d{/Control}');
    expect(changes[0]).toEqual([1, 2].map((n) => ({ n, column: 'level', text: '30' })));
    await userEvent.click(cell('1.level'));
    const clipboardData = { getData: () => '5\twits\tmore\n6\tnone\n7\tnone' };
    act(() => void fireEvent.paste(cell('1.level'), { clipboardData }));
    expect(changes[1]).toEqual([
      { n: 1, column: 'level', text: '5' },
      { n: 1, column: 'contest', text: 'wits' },
      { n: 2, column: 'level', text: '6' },
      { n: 2, column: 'contest', text: 'none' },
    ]);
  });
});
