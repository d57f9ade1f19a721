/** The games that ship with the application, and the crate that shows each. */

import type { FileTree } from '@violet-crate/core/crate/fileTree';
import type { Profile } from '@violet-crate/core/profile/schema';

export interface DemoGame {
  profile: string;
  crate: string;
  makeCrate(profile: Profile): Promise<FileTree>;
}

/** What makes them is loaded when one is made: a server that has them already starts without. */
export const DEMO_GAMES: readonly DemoGame[] = [
  { profile: 'brinewick', crate: 'pumphouse', makeCrate: async (profile) => (await import('./crate.ts')).pumphouseCrate(profile) },
  { profile: 'skarrow', crate: 'snowgate', makeCrate: async (profile) => (await import('./skarrow/crate.ts')).snowgateCrate(profile) },
];
