import { NumberField } from '../../common/fields.tsx';

export function TurnField({ value, mixed, onCommit }: { value: number; mixed: boolean; onCommit(turn: number): void }) {
  const at = (event: React.PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const degrees = (Math.atan2(box.top + box.height / 2 - event.clientY, event.clientX - box.left - box.width / 2) * 180) / Math.PI;
    return event.shiftKey ? Math.round(degrees) : Math.round(degrees / 15) * 15;
  };
  const angle = (value * Math.PI) / 180;
  return (
    <div className="d-flex gap-2 align-items-center">
      <div className="flex-grow-1">
        <NumberField label={mixed ? 'Turn (mixed)' : 'Turn'} unit="°" value={value} onCommit={onCommit} />
      </div>
      <svg
        width={28}
        height={28}
        viewBox="-14 -14 28 28"
        role="img"
        aria-label="Dial: drag to turn in steps of 15°, with Shift freely"
        style={{ cursor: 'grab', touchAction: 'none', flex: 'none' }}
        onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
        onPointerUp={(e) => onCommit(at(e))}
      >
        <title>Drag to turn in steps of 15°, with Shift freely</title>
        <circle r={12} fill="none" stroke="currentColor" strokeOpacity={0.5} />
        <line x1={0} y1={0} x2={Math.cos(angle) * 11} y2={-Math.sin(angle) * 11} stroke="var(--vc-warm)" strokeWidth={2.5} />
      </svg>
    </div>
  );
}
