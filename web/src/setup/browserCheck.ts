import type { Profile } from '@violet-crate/core/profile/schema';
import type { SetupCheck } from '../api/types.ts';

/** Whether this browser draws in three dimensions: only it can say. Null where the game does not ask for it. */
export function browserCheck(profile: Profile): SetupCheck | null {
  if (!profile.install.needs?.webgl) return null;
  const about = { id: 'webgl', title: 'Graphics of this browser', severity: 'warning' as const };
  const canvas = document.createElement('canvas');
  const context = canvas.getContext('webgl2');
  // Browsers give few of them at a time.
  context?.getExtension('WEBGL_lose_context')?.loseContext();
  if (context) return { ...about, ok: true, detail: 'WebGL 2 is there', concerns: [] };
  return {
    ...about,
    ok: false,
    detail: 'It gives no WebGL 2, so that nothing is shown in three dimensions.',
    hint: 'Allow graphics acceleration in its settings, or use another browser. Plan, section and builds work without.',
    concerns: ['map', 'trial'],
  };
}
