import { useMemo } from 'react';
import { newCrateContents, TEMPLATES } from '@violet-crate/core/crate/template';
import type { Profile } from '@violet-crate/core/profile/schema';
import { Icon } from '../common/Icon.tsx';
import { MapPicture } from '../common/MapPicture.tsx';

/** What a template holds, drawn small; a sign for blank ones, and for copies, which are not here before they are made. */
export function TemplatePicture({ profile, template }: { profile: Profile; template: string }) {
  const map = useMemo(() => {
    const known = TEMPLATES.find((one) => one === template);
    const made = known && newCrateContents(profile, { name: 'new', title: 'new', template: known }).maps.new;
    return made && Object.keys(made.solids).length + Object.keys(made.terrains).length > 0 ? made : null;
  }, [profile, template]);
  if (map) return <MapPicture map={map} />;
  return (
    <span className="map-picture d-grid place-content-center" aria-hidden="true">
      <Icon name={template === 'blank' ? 'square' : 'copy'} />
    </span>
  );
}
