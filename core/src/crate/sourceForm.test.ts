import { expect, it } from '@jest/globals';
import { sampleOf } from '../importing/samples.ts';
import { ASSET_KINDS, ASSETS } from './assetKind.ts';
import { isSourceOf } from './sourceForm.ts';

const bytes = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));

it.each(ASSET_KINDS)('a sample of %s is one; a program under each of its endings is none, and no other ending is', (kind) => {
  const { name, bytes: sample } = sampleOf(kind);
  expect(isSourceOf(kind, name, sample)).toBe(true);
  for (const ending of ASSETS[kind].endings)
    for (const program of ['#!/bin/sh\nrm -r ~\n', 'MZ\x90\0\x03\0\0\0', '\x7fELF\x02\x01\x01\0'])
      expect([ending, isSourceOf(kind, `a.${ending}`, bytes(program))]).toEqual([ending, false]);
  for (const ending of ['bat', 'command', 'lnk', 'desktop', 'sh', 'exe', 'js', 'html', 'svg', 'url', 'scr', 'png.bat', ''])
    expect(isSourceOf(kind, `a.${ending}`, sample)).toBe(false);
});
