import { unzip, strFromU8 } from 'fflate';
import { saveFile } from '../sheet/save-file';
import { FilmMaker } from './film-maker';

/** Joins the numbered pictures of a printed walk to a film and hands it over; a sentence says why not. */
export async function filmOfPictures(address: string, name: string, told: (share: number) => void): Promise<string | undefined> {
  const response = await fetch(address).catch(() => undefined);
  if (!response?.ok) return 'The pictures could not be fetched.';
  const bytes = new Uint8Array(await response.arrayBuffer());
  const files = await new Promise<Record<string, Uint8Array>>((resolve, reject) => {
    unzip(bytes, (error, unzipped) => {
      if (error) reject(error);
      else resolve(unzipped);
    });
  });
  const names = Object.keys(files)
    .filter((file) => /^\d+\./.test(file))
    .sort();
  const about = JSON.parse(strFromU8(files['about.json']!)) as Record<string, string>;
  const seconds = 1 / Number(about['FramesPerSecond']);
  const pictureOf = (file: string) => createImageBitmap(new Blob([files[file]! as Uint8Array<ArrayBuffer>]));
  const first = await pictureOf(names[0]!);
  const film = await FilmMaker.begin(first.width, first.height);
  if (!film) return 'This browser encodes no films of that size.';
  for (const [i, file] of names.entries()) {
    const picture = await pictureOf(file);
    film.draw(picture);
    picture.close();
    await film.add(i * seconds, seconds);
    told((i + 1) / names.length);
  }
  const { ending, bytes: made } = await film.end();
  saveFile(`${name}.${ending}`, `video/${ending}`, made);
  return undefined;
}
