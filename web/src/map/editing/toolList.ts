/** The tools of the sheets: what they are called, and their keys. What they do with a press stands in `map/flat/tools.ts`. */

export interface SheetTool {
  id: string;
  label: string;
  key: string;
  icon: string;
  /** What it does, for its tooltip; and as a command. */
  hint: string;
  command: string;
  /** Works in the plan only. */
  planOnly?: true;
}

export const TOOLS: readonly SheetTool[] = [
  {
    id: 'select',
    label: 'Select',
    key: '1',
    icon: 'cursor',
    hint: 'Click to select, again for what lies behind; drag to move, Alt-drag to copy; Shift-drag for a marquee',
    command: 'Select and move',
  },
  {
    id: 'room',
    label: 'Room',
    key: '2',
    icon: 'bounding-box-circles',
    hint: 'Drag the inside of a room: a sealed shell is drawn around it',
    command: 'Draw a room',
  },
  {
    id: 'solid',
    label: 'Solid',
    key: '3',
    icon: 'square-fill',
    hint: 'Drag the footprint of a solid; its height comes from the band',
    command: 'Draw a solid',
  },
  {
    id: 'place',
    label: 'Object',
    key: '4',
    icon: 'pin-map',
    hint: 'Choose a class, then click in the plan',
    command: 'Place an object',
    planOnly: true,
  },
  {
    id: 'section',
    label: 'Section',
    key: '5',
    icon: 'slash-lg',
    hint: 'Drag the line along which the section is cut',
    command: 'Draw the section line',
    planOnly: true,
  },
  {
    id: 'cut',
    label: 'Cut',
    key: '7',
    icon: 'scissors',
    hint: 'Drag a line in plan or section: what is selected, or what it crosses, is cut',
    command: 'Cut solids along a line',
  },
  {
    id: 'path',
    label: 'Path',
    key: '8',
    icon: 'bezier2',
    hint: 'Click the points of a path',
    command: 'Draw a path',
    planOnly: true,
  },
  {
    id: 'measure',
    label: 'Measure',
    key: '9',
    icon: 'rulers',
    hint: 'Click points: distance, angle, area, and what the player can do',
    command: 'Measure, and see what the player can do',
    planOnly: true,
  },
  {
    id: 'note',
    label: 'Note',
    key: 't',
    icon: 'chat-left-text',
    hint: 'Drag from what a note is about to where its text shall stand',
    command: 'Write a note',
  },
  {
    id: 'decal',
    label: 'Decal',
    key: 'q',
    icon: 'stickies',
    hint: 'Decals, strips and areas: click a floor in the plan, a wall in the section, or any surface in the perspective',
    command: 'Put decals on surfaces',
  },
  {
    id: 'ground',
    label: 'Ground',
    key: 'x',
    icon: 'layers-half',
    hint: 'Work on the ground with a brush: raise, smooth, paint, scatter …',
    command: 'Work on the ground',
    planOnly: true,
  },
];
