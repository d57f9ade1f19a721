import { useEffect, useState } from 'react';
import { plainText, readVtt, timeText, type Cue } from '@violet-crate/core/asset/subtitle/readVtt';
import type { LibraryEntry } from '@violet-crate/core/library/library';
import { request } from '../api/http.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { plural } from '../common/format.ts';
import { fileUrl, type AssetSource } from '../api/assetUrl.ts';

/** The cues of a subtitle file, to be read. */
export function SubtitlePanel({ entry, source }: { entry: LibraryEntry; source: AssetSource }) {
  const [cues, setCues] = useState<Cue[] | string | null>(null);
  const url = fileUrl(source, entry.id);
  useEffect(() => {
    let gone = false;
    request(url)
      .then(async (response) => readVtt(new Uint8Array(await response.arrayBuffer()), entry.name).cues)
      .catch((error: Error) => error.message)
      .then((found) => !gone && setCues(found));
    return () => {
      gone = true;
    };
  }, [url, entry.name]);
  if (cues === null) return <Busy what="Reading the subtitles" />;
  if (typeof cues === 'string') return <Trouble>{cues}</Trouble>;
  return (
    <>
      <p className="faint">{plural(cues.length, 'cue')}. A sound names them in its properties; they are shown while it plays in the test run.</p>
      <table className="table table-sm">
        <thead>
          <tr>
            <th>From</th>
            <th>To</th>
            <th>Words</th>
          </tr>
        </thead>
        <tbody>
          {cues.map((cue) => (
            <tr key={cue.line}>
              <td className="mono">{timeText(cue.start).slice(3)}</td>
              <td className="mono">{timeText(cue.end).slice(3)}</td>
              <td style={{ whiteSpace: 'pre-line' }}>{plainText(cue.text)}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
