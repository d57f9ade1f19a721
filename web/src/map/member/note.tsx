import { nameProblem } from '@violet-crate/core/crate/naming';
import type { Note } from '@violet-crate/core/document/schema';
import { Icon } from '../../common/Icon.tsx';
import { TextField, VectorField } from '../../common/fields.tsx';
import { drawLabel } from '../../common/sheet.ts';
import { edited } from '../../state/mapSlice.ts';
import { useAppDispatch } from '../../state/store.ts';
import { useDocument } from '../editing/useDocument.ts';
import { SelectionButtons } from '../commands/SelectionButtons.tsx';
import type { MemberLook } from './look.ts';

/** A text with a leader line: it bends where the line has points, and ends in a dot on what it is about. */
export const note: MemberLook<'notes'> = {
  icon: () => 'chat-left-text',
  heading: () => 'Notes',
  aside: ({ name }) => name,
  points: ({ position, points }) => [position, ...points],
  lines: ({ position, points }) => points.map((p, i) => [i === 0 ? position : points[i - 1], p] as const),
  grips: ({ position, points }) => [position, ...points],
  moved: (member, grip, to) =>
    grip === 0 ? { ...member, position: to } : { ...member, points: member.points.map((p, i) => (i === grip - 1 ? to : p)) },
  draw({ context, place, colours, chosen }, { position, points, text }) {
    const ink = chosen ? colours.warm : colours.ink;
    const line = [position, ...points].map(place);
    context.strokeStyle = ink;
    context.fillStyle = ink;
    context.lineWidth = chosen ? 2 : 1;
    context.beginPath();
    line.forEach(([x, y], i) => (i === 0 ? context.moveTo(x, y) : context.lineTo(x, y)));
    context.stroke();
    const [endX, endY] = line[line.length - 1];
    context.beginPath();
    context.arc(endX, endY, chosen ? 4 : 2.5, 0, 2 * Math.PI);
    context.fill();
    const [x, y] = line[0];
    const rows = (text || '…').split('\n');
    rows.forEach((row, i) => drawLabel(context, row, x + 4, y - 5 - (rows.length - 1 - i) * 15, ink, colours.ground));
  },
  Inspector: ({ ids }) => <NoteInspector id={ids[0]} />,
};

function NoteInspector({ id }: { id: string }) {
  const dispatch = useAppDispatch();
  const { map, profile } = useDocument();
  const member = map.notes[id];
  const change = (part: Partial<Note>, name: string) => dispatch(edited({ name, changes: [{ of: 'notes', id, to: { ...member, ...part } }] }));
  return (
    <>
      <div className="d-flex align-items-center gap-2">
        <Icon name="chat-left-text" />
        <h2 className="m-0 flex-grow-1">Note</h2>
        <SelectionButtons />
      </div>
      <p className="faint small mb-2">For whoever works on the map; the game never sees it. Its points can be dragged in plan and section.</p>
      <TextField label="Text" rows={4} value={member.text} onCommit={(text) => change({ text }, 'change note')} />
      <TextField
        label="Name"
        mono
        value={member.name}
        problem={(text) => nameProblem(profile, 'object', text)}
        onCommit={(name) => change({ name }, `rename ${member.name}`)}
      />
      <VectorField isLength label="Text at" value={member.position} onCommit={(position) => change({ position }, 'move note')} />
      {member.points.map((point, i) => (
        <VectorField
          isLength
          key={i}
          label={i === member.points.length - 1 ? 'Points to' : `Bends at ${i + 1}`}
          value={point}
          onCommit={(next) => change({ points: member.points.map((p, k) => (k === i ? next : p)) }, 'move note')}
        />
      ))}
    </>
  );
}
