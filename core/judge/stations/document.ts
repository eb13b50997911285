/** The page about stations in `docs/`, drawn from the stations themselves. */
import { stations } from './stations'

/** The page on the stations, in Markdown. */
export function stationsPage(): string {
  const rows = stations.map(s => `| \`${s.id}\` | ${s.name} | ${s.family} | ${s.explains} |`)
  return `# Stations

A station stands for a family of programs. It sees nothing but the delivered file: decodes it, takes its alpha the way such programs do, and
paints it into a scene. The error is against the same frame read as its sender means it, in the same scene at the same size. Each stands *right*,
*right after a setting*, or *wrong*.

| id | name | stands for | what it does |
| --- | --- | --- | --- |
${rows.join('\n')}

## The same over HTTP

\`POST /api/stations/ID\` with the file as the body (at most 64 MiB; a sequence as a ZIP) answers JSON: how the station took it, its sentence, the error,
and the picture as a data address; with \`Accept: image/png\` the picture alone. \`GET /api/stations\` lists the stations. What can be asked, all optional:

| query | meaning |
| --- | --- |
| \`frame\` | counted from 1 |
| \`backdrop\` | a colour such as \`%234a7ba6\`, or \`view\` for the glasshouse |
| \`x\`, \`y\` | the picture's way from the middle, in shares of the frame |
| \`scale\`, \`turn\` | its size (1 is whole), and degrees clockwise |
| \`standIn\` | \`none\`, \`behind\` or \`before\`: a flower pot |
| \`filter\` | \`smooth\` or \`nearest\` |
| \`meant\` | how the sender means it: \`straight\`, \`none\`, \`premultiplied\` or \`premultiplied:#rrggbb\`; without it, what its pixels advise |

Refusals: 404 no such station, 400 a question that makes no sense or no file, 413 too large, 422 a file that cannot be read, or that the station does not open,
405 another way than \`POST\`, 401 and 403 whoever may not ask (see "Serving others" in the README), 503 when ten files are there already, 504 after 20 seconds.
WebM needs a browser's decoder and is refused here.

On the command line: \`npm run --silent pour -- stations FILE\`.
`
}
