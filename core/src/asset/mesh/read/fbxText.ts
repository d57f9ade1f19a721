/**
 * ASCII FBX in the one layout that three's loader reads: lines indented by tabs alone, a blank behind every colon, no
 * blanks between the numbers of a property, arrays continued at the start of a line, and brackets on lines of their own
 * record. Other programs indent by blanks, put blanks behind commas and close a record on its own line.
 */

import { modelsWithoutGeometry, type FbxLinks } from './fbxLinks.ts';

/** The loader looks for the mark of binary files among the first characters, at places that move with what it finds. */
const LEAD = ' '.repeat(600);

export function prepareFbxText(text: string): string {
  const lines = text.split(/\r\n|\r|\n/);
  const links = linksOf(lines);
  const empty = modelsWithoutGeometry(links);
  const out: string[] = [LEAD];
  let depth = 0;
  const write = (statement: string) => out.push('\t'.repeat(depth) + statement);
  for (const line of lines) {
    const statement = line.trim();
    if (statement === '' || statement.startsWith(';')) continue;
    if (statement.startsWith('}')) {
      depth = Math.max(0, depth - 1);
      write('}');
      continue;
    }
    const colon = /^(\w+)\s*:/.exec(statement);
    if (!colon) {
      // The numbers of an array go on.
      out.push(statement);
      continue;
    }
    const name = colon[1];
    const rest = statement.slice(colon[0].length).trim();
    if (/\{\s*\}$/.test(rest.slice(-8))) {
      write(`${name}: ${rest.slice(0, rest.lastIndexOf('{'))}{`);
      write('}');
    } else if (rest.endsWith('{')) {
      const values = rest.slice(0, -1).trim();
      const id = name === 'Model' ? parseInt(values, 10) : NaN;
      write(`${name}: ${empty.has(String(id)) ? values.replace(/"Mesh"$/, '"Null"') : values} {`);
      depth++;
    } else write(`${name}: ${name === 'P' ? withoutBlanks(rest) : rest}`);
  }
  return `${out.join('\n')}\n`;
}

/** Blanks between the values of a property, outside of its texts. */
const withoutBlanks = (values: string): string =>
  values
    .split('"')
    .map((part, i) => (i % 2 === 0 ? part.replaceAll(/\s+/g, '') : part))
    .join('"');

function linksOf(lines: readonly string[]): FbxLinks {
  const links: FbxLinks = { meshModels: [], geometries: new Set(), connections: [] };
  for (const line of lines) {
    if (line.length > 1000) continue;
    const statement = line.trim();
    const record = /^(Model|Geometry)\s*:\s*(-?\d+)\s*,/.exec(statement);
    if (record?.[1] === 'Model' && /"Mesh"\s*\{$/.test(statement)) links.meshModels.push(record[2]);
    else if (record?.[1] === 'Geometry') links.geometries.add(record[2]);
    const connection = /^C\s*:\s*"OO"\s*,\s*(-?\d+)\s*,\s*(-?\d+)/.exec(statement);
    if (connection) links.connections.push([connection[1], connection[2]]);
  }
  return links;
}
