import type { InputSignal } from '@angular/core';
import { describe, expect, it } from 'vitest';
import type { Finish } from '../../../core/finish/finish';
import { FINISHES } from '../../../core/finish/library';
import { give, onStage, typed } from '../testing/station';
import { FinishBodyCard } from './finish-body';
import { FinishCard } from './finish-card';

interface Parts {
  finish: InputSignal<Finish>;
  spreads(): { field: string }[];
  varied(change: Partial<Finish['vary']>): Partial<Finish>;
  turnOf(value: string): Finish['vary']['turn'];
  setOffset(axis: number, event: Event): void;
  setStep(axis: number, event: Event): void;
  shown(): Finish;
  edited(): boolean;
  preview(change: Partial<Finish>): void;
  edit(change: Partial<Finish>): void;
  setSize(field: 'widthM', event: Event): void;
  glossy: { set(on: boolean): void };
  groups(): { sliders: { field: string; label: string; turned?: boolean }[] }[];
  placeLike(id: string): void;
  others(): Finish[];
}

const brick = FINISHES.find((f) => f.id === 'brick')!;
function card(finish = brick) {
  const stage = onStage<Parts>(FinishCard);
  give(stage.part.finish, finish);
  return stage;
}

describe('the parameters of a finish', () => {
  it('show in the picture while a control is dragged, and are kept when it is let go', () => {
    const { part, live, scene } = card();
    part.preview({ roughness: 0.11 });
    expect([part.shown().roughness, scene.finishPreview$.value?.roughness]).toEqual([0.11, 0.11]);
    expect(live.commands).toEqual([]);
    part.edit({ roughness: 0.2 });
    expect(live.commands).toEqual([{ type: 'edit-finish', finish: { ...brick, roughness: 0.2 } }]);
    expect(scene.finishPreview$.value).toBeUndefined();
    expect(part.shown()).toEqual(brick);
  });

  it('are as before when the card is closed in the middle of a drag', () => {
    const { part, scene, leave } = card();
    part.preview({ metalness: 1 });
    leave();
    expect(scene.finishPreview$.value).toBeUndefined();
  });

  it('keep the size of a texture in metres, from millimetres that make sense', () => {
    const { part, live } = card();
    for (const text of ['0', '-5', '2000000', 'wide']) part.setSize('widthM', typed(text));
    expect(live.commands).toEqual([]);
    part.setSize('widthM', typed('1250'));
    expect(live.commands).toEqual([{ type: 'edit-finish', finish: { ...brick, widthM: 1.25 } }]);
  });

  it('say how elements differ, and keep what was said before of the rest', () => {
    const { part } = card({ ...brick, vary: { ...brick.vary, hueDeg: 4 } });
    expect(part.varied({ turn: part.turnOf('quarter') })).toEqual({ vary: { ...brick.vary, hueDeg: 4, turn: 'quarter' } });
    expect(part.turnOf('sideways')).toBe('none');
    expect(
      card({ ...brick, maps: null })
        .part.spreads()
        .map((s) => s.field),
    ).toEqual(['brightness', 'hueDeg']);
  });

  it('move the maps by millimetres, and step by whole boards', () => {
    const { part, live } = card();
    part.setOffset(1, typed('-40'));
    part.setStep(0, typed('120'));
    part.setStep(0, typed('-1'));
    part.setOffset(0, typed('x'));
    expect(live.commands).toEqual([
      { type: 'edit-finish', finish: { ...brick, offsetM: [0, -0.04] } },
      { type: 'edit-finish', finish: { ...brick, vary: { ...brick.vary, stepM: [0.12, 0] } } },
    ]);
  });

  it('can be taken back to the shipped ones only where they differ', () => {
    expect(card().part.edited()).toBe(false);
    expect(card({ ...brick, roughness: 0.2 }).part.edited()).toBe(true);
  });

  it('tell roughness as glossiness for those who think so', () => {
    const { part } = card();
    const told = () => part.groups().flatMap((g) => g.sliders).filter((p) => p.field === 'roughness' || p.turned).map(({ label, turned }) => [label, turned]); // prettier-ignore
    expect(told()).toEqual([['Roughness', undefined]]);
    part.glossy.set(true);
    expect(told()).toEqual([['Glossiness', true]]);
  });

  it('take the placing of maps over from another finish, and nothing else', () => {
    const { part, live } = card();
    expect(part.others().every((f) => f.maps !== null && f.id !== 'brick')).toBe(true);
    const oak = FINISHES.find((f) => f.id === 'oak')!;
    part.placeLike('oak');
    const { widthM, heightM, rotationDeg, offsetM, breakRepeat, vary } = oak;
    expect(live.commands).toEqual([
      { type: 'edit-finish', finish: { ...brick, widthM, heightM, rotationDeg, offsetM, breakRepeat, vary } },
    ]);
    part.placeLike('nothing');
    expect(live.commands).toHaveLength(1);
  });
});

describe('what a finish lets through', () => {
  interface Body {
    finish: InputSignal<Finish>;
    set: { subscribe(listener: (change: Partial<Finish>) => void): void };
    setDepth(millimetres: number): void;
    setEmission(cdM2: number): void;
    bodyOf(value: string): Finish['body'];
    tintHex(): string;
  }

  it('is told in millimetres and cd/m2, within bounds', () => {
    const { part } = onStage<Body>(FinishBodyCard);
    const tinted: Finish = { ...brick, attenuationColour: [1, 0.5, 0] };
    give(part.finish, tinted);
    const changes: Partial<Finish>[] = [];
    part.set.subscribe((change) => changes.push(change));
    part.setDepth(250);
    part.setDepth(0);
    part.setDepth(NaN);
    part.setEmission(1200);
    part.setEmission(-1);
    expect(changes).toEqual([{ attenuationDistanceM: 0.25 }, { emissionCdM2: 1200 }]);
    expect([part.bodyOf('solid'), part.bodyOf('<b>'), part.tintHex()]).toEqual(['solid', 'sheet', '#ff8000']);
  });
});
