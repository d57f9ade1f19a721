import type { LinkKind } from '@violet-crate/core/link/thing';
import { Icon } from '../common/Icon.tsx';

const ICONS: Record<LinkKind, string> = {
  map: 'map',
  prefab: 'boxes',
  surface: 'layers',
  path: 'signpost-split',
  icon: 'flag',
  material: 'palette',
  texture: 'image',
  model: 'box',
  sound: 'volume-up',
  subtitle: 'chat-square-text',
  script: 'file-earmark-code',
  function: 'braces',
  table: 'table',
  talk: 'chat-left-text',
  effect: 'stars',
  pack: 'box2',
  crate: 'box-seam',
  game: 'controller',
};

export const KindIcon = ({ kind }: { kind: LinkKind }) => <Icon name={ICONS[kind]} />;
