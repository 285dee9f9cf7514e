import { firstValueFrom } from 'rxjs';
import { describe, expect, it } from 'vitest';
import { PLAIN_GRADING, type Grading } from '../../../core/image/grading';
import { onStage } from '../testing/station';
import { DevelopmentPanel } from './development-panel';

interface Parts {
  grading(): Grading;
  changed(): boolean;
  slide(change: Partial<Grading>): void;
  set(change: Partial<Grading>): void;
  choose(look: string, file: HTMLInputElement): void;
  looks(): { id: string; name: string }[];
  bring(input: HTMLInputElement): Promise<void>;
  reset(): void;
}

const station = () => onStage<Parts>(DevelopmentPanel);
const picker = (name: string, text: string) => ({ value: name, files: [new File([text], name)] }) as unknown as HTMLInputElement;

describe('development', () => {
  it('is seen while a slider is dragged, and decided when it is let go', async () => {
    const { part, live, scene } = station();
    part.slide({ contrast: 0.4 });
    expect((await firstValueFrom(scene.grading$)).grading.contrast).toBe(0.4);
    expect(live.commands).toEqual([]);
    part.set({ contrast: 0.5 });
    expect(live.commands).toEqual([{ type: 'develop', grading: { ...PLAIN_GRADING, contrast: 0.5 }, name: 'contrast +50' }]);
    expect((await firstValueFrom(scene.grading$)).grading.contrast).toBe(0);
  });

  it('goes back to how it was shot', () => {
    const { part, live } = station();
    live.put('grading', { ...PLAIN_GRADING, curve: 'filmic' });
    expect(part.changed()).toBe(true);
    part.reset();
    expect(live.commands.at(-1)).toMatchObject({ type: 'develop', grading: PLAIN_GRADING });
  });

  it('takes a look from a file, wears it and lays it off; what is none is refused by its line', async () => {
    const { part, live } = station();
    const refused: string[] = [];
    live.refusals$.subscribe((sentence) => refused.push(sentence));
    await part.bring(picker('bad.cube', 'LUT_1D_SIZE 2\n0 0\n'));
    expect(refused).toEqual(['bad.cube: line 2: a colour has three numbers.']);
    await part.bring(picker('Haar.cube', 'LUT_1D_SIZE 2\n0 0 0\n1 1 0.9\n'));
    expect(live.commands.at(-1)).toMatchObject({ type: 'bring-look', name: 'Haar' });
    live.put('look/a', { name: 'Haar', text: '' });
    live.put('grading', { ...PLAIN_GRADING, look: { id: 'a', strength: 0.6 } });
    expect(part.looks()).toEqual([{ id: 'a', name: 'Haar' }]);
    part.choose('', picker('', ''));
    expect((live.commands.at(-1) as { grading: Grading }).grading.look).toBeUndefined();
  });
});
