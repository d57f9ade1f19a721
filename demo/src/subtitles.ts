/** What is read while the demo's sounds play, as WebVTT. */
export const SUBTITLES: Record<string, string> = {
  rush: `WEBVTT

00:00.000 --> 00:02.500
[The sluice opens; water rushes out of the cellar.]

00:02.500 --> 00:05.000
[Somewhere below, a drain gurgles.]
`,
  chime: `WEBVTT

00:00.000 --> 00:02.500
[Three chimes over the canal.]
`,
};
