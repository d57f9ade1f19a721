/** @jest-environment ./web/src/testing/documentEnvironment.mjs */

import { afterEach, beforeEach, describe, expect, it, jest } from '@jest/globals';
import { cleanup, render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { useEffect } from 'react';
import { Stage3d } from '../three/stage3d.ts';
import { Contained } from './Contained.tsx';

afterEach(cleanup);
// React tells every contained error once more.
beforeEach(() => void jest.spyOn(console, 'error').mockImplementation(() => {}));
afterEach(() => void jest.restoreAllMocks());

function Picture() {
  useEffect(() => new Stage3d(document.createElement('div'), '#000').dispose(), []);
  return <p>a picture</p>;
}

describe('a fault in a part of the page', () => {
  it('takes that part only, and trying again helps where the cause is gone', async () => {
    let broken = true;
    const Part = () => {
      if (broken) throw new TypeError('x is not a function');
      return <p>whole again</p>;
    };
    render(
      <>
        <Contained what="The list">
          <Part />
        </Contained>
        <p>all around</p>
      </>,
    );
    expect(screen.getByRole('alert').textContent).toMatch(/The list met a fault of ours.*What you did before is kept/);
    expect(screen.getByRole('alert').textContent).not.toContain('not a function');
    expect(screen.getByText('all around')).toBeTruthy();
    broken = false;
    await userEvent.setup().click(screen.getByRole('button', { name: 'Try again' }));
    expect(screen.getByText('whole again')).toBeTruthy();
  });

  it('a browser without WebGL is named as the cause', () => {
    jest.spyOn(HTMLCanvasElement.prototype, 'getContext').mockReturnValue(null);
    render(
      <Contained what="The perspective">
        <Picture />
      </Contained>,
    );
    expect(screen.getByRole('alert').textContent).toMatch(
      /The perspective cannot be drawn: the browser gives no WebGL 2\. Allow graphics acceleration/,
    );
  });
});
