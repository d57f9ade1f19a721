/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, describe, expect, it } from '@jest/globals';
import { cleanup, fireEvent, screen, within } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { ProfileSchema, type Profile } from '@violet-crate/core/profile/schema';
import { loadProfile } from '@violet-crate/core/profile/load';
import { testProfile } from '@violet-crate/core/testing/world';
import { useState } from 'react';
import { renderIn } from '../testing/render.tsx';
import { blankOf, put, variantOf, variantWords, type Json } from './schema.ts';
import { SchemaForm } from './SchemaForm.tsx';

afterEach(cleanup);

type Part = keyof typeof ProfileSchema.properties;
let now: Profile;
function Form({ part, readOnly = false }: { part: Part; readOnly?: boolean }) {
  const [profile, setProfile] = useState<Json>(testProfile() as unknown as Json);
  now = profile as unknown as Profile;
  return (
    <SchemaForm
      schema={ProfileSchema.properties[part]}
      value={(profile as Record<string, Json>)[part]}
      path={[part]}
      readOnly={readOnly}
      set={(path, value) => setProfile(put(profile, path, value))}
    />
  );
}
const inOrder = () => loadProfile(JSON.stringify(now), 'now.json');

describe('the form of a profile', () => {
  it('a class is added, named, given parts and a property, moved and taken away', async () => {
    renderIn(<Form part="classes" />);
    const user = userEvent.setup();
    const before = now.classes.length;
    await user.click(screen.getByRole('button', { name: 'Add to classes' }));
    expect(now.classes).toHaveLength(before + 1);
    const form = within(document.querySelector('.entry-form')! as HTMLElement);
    fireEvent.change(form.getByLabelText(/^Id/), { target: { value: 'bell' } });
    fireEvent.change(form.getByLabelText(/^Label/), { target: { value: 'Bell' } });
    await user.click(form.getAllByRole('checkbox')[0]);
    await user.click(form.getByRole('button', { name: 'Add to properties' }));
    const added = now.classes[before];
    expect(added).toMatchObject({ id: 'bell', parts: [expect.any(String)], properties: [expect.any(Object)] });
    await user.click(screen.getByRole('button', { name: 'Move Bell up' }));
    expect(now.classes[before - 1].id).toBe('bell');
    await user.click(screen.getByRole('button', { name: 'Double Bell' }));
    expect(now.classes.filter(({ id }) => id === 'bell')).toHaveLength(2);
    await user.click(screen.getByRole('button', { name: 'Take Bell away' }));
    expect(now.classes.filter(({ id }) => id === 'bell')).toHaveLength(1);
  });

  it('an entry that is there is found by its name, opened and changed; the profile stays in order', async () => {
    renderIn(<Form part="classes" />);
    const user = userEvent.setup();
    await user.type(screen.getByRole('searchbox', { name: 'Search classes' }), now.classes[3].label);
    await user.click(screen.getByRole('button', { name: now.classes[3].label, expanded: false }));
    fireEvent.change(within(document.querySelector('.entry-form')! as HTMLElement).getByLabelText(/^Label/), { target: { value: 'Another name' } });
    expect(now.classes[3].label).toBe('Another name');
    expect(inOrder().classes[3].label).toBe('Another name');
  });

  it('a program of the game gets its environment and an output; steps of preparation get their kind of rule', async () => {
    renderIn(<Form part="programs" />);
    const user = userEvent.setup();
    await user.click(screen.getByRole('button', { name: 'Add to programs' }));
    const environment = screen.getByLabelText(/^Environment/);
    fireEvent.change(environment, { target: { value: 'QUIET' } });
    fireEvent.blur(environment);
    // What cannot be read says how it is written, and changes nothing.
    expect(screen.getByRole('alert').textContent).toContain('NAME=value');
    expect(now.programs!.at(-1)!.environment).toBeUndefined();
    fireEvent.change(environment, { target: { value: 'QUIET=1\nPLACE=a=b' } });
    fireEvent.blur(environment);
    expect(now.programs!.at(-1)!.environment).toEqual({ QUIET: '1', PLACE: 'a=b' });
    cleanup();

    renderIn(<Form part="preparation" />);
    await user.click(screen.getByRole('button', { name: 'Add to preparation' }));
    const kinds = screen.getAllByLabelText('Kind');
    for (let i = 0; i < kinds.length; i++)
      for (const option of within(kinds[i])
        .getAllByRole<HTMLOptionElement>('option')
        .filter(({ value }) => value !== '-1')) {
        await user.selectOptions(screen.getAllByLabelText('Kind')[i], option.value);
        expect((screen.getAllByLabelText('Kind')[i] as HTMLSelectElement).value).toBe(option.value);
      }
  });

  it('what only may be looked at has nothing to add or to take away', () => {
    renderIn(<Form part="classes" readOnly />);
    expect(screen.queryByRole('button', { name: /^Add/ })).toBeNull();
  });

  it('values go to their place, and blanks have what is required', () => {
    expect(put({ a: [{ b: 1 }, { b: 2 }] }, ['a', '1', 'b'], 3)).toEqual({ a: [{ b: 1 }, { b: 3 }] });
    expect(put({ a: [1, 2, 3] }, ['a', '1'], undefined)).toEqual({ a: [1, 3] });
    expect(put(undefined, ['a', 'b'], true)).toEqual({ a: { b: true } });
    const { done } = ProfileSchema.properties.preparation.items.properties;
    const variants = done.anyOf;
    for (const [i, variant] of variants.entries()) {
      expect(variantOf(variants, blankOf(variant))).toBe(i);
      expect(variantWords(variant)).not.toBe('');
    }
    expect(variantOf(variants, undefined)).toBe(-1);
  });
});
