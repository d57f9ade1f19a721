import { useAppSelector } from '../state/store.ts';
import { Details } from './Details.tsx';
import { PackagePanel } from './PackagePanel.tsx';
import { WorkshopPanel } from './WorkshopPanel.tsx';

/** Stage 8: what people will read, the package, the workshop, and the way back into the game. */
export function PublishPage() {
  const { view } = useAppSelector((s) => s.crate);
  if (!view) return null;
  return (
    <div className="page">
      <h1>Publish</h1>
      <p className="lead">Describe the crate, make its package, publish that on the workshop, and install it from there as everyone else would.</p>
      <div className="row g-3">
        <div className="col-lg-6">
          <Details key={view.id} manifest={view.manifest} crateId={view.id} />
        </div>
        <div className="col-lg-6">
          <PackagePanel crateId={view.id} />
          <WorkshopPanel />
        </div>
      </div>
    </div>
  );
}
