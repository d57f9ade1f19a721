/** The games that ship with the application, and the crate that shows each. */

import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { Profile } from '@violet-crate/core/profile/schema';
import { pumphouseCrate } from './crate.ts';
import { snowgateCrate } from './skarrow/crate.ts';

export interface DemoGame {
  profile: string;
  crate: string;
  makeCrate(profile: Profile): Promise<FileTree>;
}

export const DEMO_GAMES: readonly DemoGame[] = [
  { profile: 'brinewick', crate: 'pumphouse', makeCrate: pumphouseCrate },
  { profile: 'skarrow', crate: 'snowgate', makeCrate: snowgateCrate },
];
