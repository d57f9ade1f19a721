/** Puts another line in the place of one of a file that has a member of a list on each; null where it is no longer that line. */
export function withLine(text: string, line: number, was: string, to: string | null): string | null {
  const lines = text.split('\n');
  const bare = (one: string | undefined) => one?.trim().replace(/,$/, '');
  const at = bare(lines[line - 1]) === was ? line - 1 : lines.findIndex((one) => bare(one) === was);
  if (at < 0) return null;
  const comma = lines[at].endsWith(',');
  if (to !== null) lines[at] = `    ${to}${comma ? ',' : ''}`;
  else {
    lines.splice(at, 1);
    // The last of a list has no comma behind it.
    if (!comma && lines[at - 1]?.endsWith(',')) lines[at - 1] = lines[at - 1].slice(0, -1);
  }
  return lines.join('\n');
}
