import { spawn } from 'node:child_process';
import { rename } from 'node:fs/promises';
import { existsSync } from 'node:fs';

/** Films of walks, by Debian's ffmpeg where it is. */

const FFMPEG = ['/usr/bin/ffmpeg', '/usr/local/bin/ffmpeg'];
export const ffmpeg = (): string | undefined => FFMPEG.find((file) => existsSync(file));

/** ITU-R BT.709, said in the file and meant in the numbers. */
const COLOUR = ['-color_primaries', 'bt709', '-color_trc', 'bt709', '-colorspace', 'bt709', '-color_range', 'tv'];
const CODECS = {
  mp4: ['-c:v', 'libx264', '-preset', 'medium', '-crf', '17', '-movflags', '+faststart', '-f', 'mp4'],
  webm: ['-c:v', 'libvpx-vp9', '-crf', '24', '-b:v', '0', '-row-mt', '1', '-deadline', 'good', '-cpu-used', '3', '-f', 'webm'],
} as const;

/** Encodes numbered pictures; `pattern` as printf has it. Throws with ffmpeg's last words. */
export async function writeFilm(
  kind: 'mp4' | 'webm',
  pattern: string,
  framesPerSecond: number,
  title: string,
  file: string,
): Promise<void> {
  const args = [
    '-hide_banner', '-loglevel', 'error', '-y', '-framerate', String(framesPerSecond), '-i', pattern,
    // Colour is halved each way, so that sides have to be even: a last odd row or column is left out.
    '-vf', 'crop=floor(iw/2)*2:floor(ih/2)*2:0:0,scale=out_color_matrix=bt709:out_range=tv,format=yuv420p', ...COLOUR,
    ...CODECS[kind], '-metadata', `title=${title}`, `${file}.part`,
  ]; // prettier-ignore
  const child = spawn(ffmpeg()!, args, { stdio: ['ignore', 'ignore', 'pipe'] });
  let said = '';
  child.stderr.on('data', (piece: Buffer) => (said = (said + piece.toString()).slice(-400)));
  const code = await new Promise<number | null>((resolve, reject) => {
    child.on('error', reject);
    child.on('close', resolve);
  });
  if (code !== 0) throw new Error(`ffmpeg ended with ${String(code)}: ${said.trim()}`);
  await rename(`${file}.part`, file);
}
