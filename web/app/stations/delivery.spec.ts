import { afterEach, describe, expect, it, vi } from 'vitest';
import type { PrintSummary } from '../../../core/project/live';
import { applyChange, EMPTY_MODEL } from '../../../core/model/model';
import { testChange, testElement } from '../../../core/model/testing';
import type { LightTable } from '../state/light-table';
import { durationWords, sizeWords, type PrintSettings } from '../state/print-settings';
import { onStage, typed } from '../testing/station';
import { DeliveryStation } from './delivery';
import { DrawingRegister } from './drawing-register';
import { PrintList } from './print-list';
import { PrintOrderForm } from './print-order-form';

interface Form {
  order(event: Event): Promise<void>;
  walks(): { id: string }[];
  walkId: { set(id: string): void };
  frames(): number;
  setKind(kind: string): void;
  orders: { fault(): string };
  settings: PrintSettings;
  about(): { time: string; text: string };
}

function answering(answer: () => Promise<Response>) {
  const asked: { url: string; method: string; body: unknown }[] = [];
  vi.stubGlobal('fetch', (url: string, { method, body }: { method: string; body?: string }) => {
    asked.push({ url, method, body: body === undefined ? undefined : JSON.parse(body) });
    return answer();
  });
  return asked;
}
const fine = () => Promise.resolve(new Response('{}'));
afterEach(() => {
  vi.unstubAllGlobals();
});

const VIEW = {
  name: 'Bank',
  position: [0, 0, 1.6] as [number, number, number],
  target: [5, 5, 1.6] as [number, number, number],
  focalMm: 28,
};

describe('one picture', () => {
  it('is ordered of a walk as well, from a moment that is always the same', async () => {
    const asked = answering(fine);
    const stop = (x: number) => ({ ...VIEW, position: [x, 0, 1.6] as [number, number, number] });
    const { part, picture } = onStage<Form>(PrintOrderForm, (live) => {
      live.put('walk/w', { name: 'Along the quay', stops: [stop(0), stop(9)], seconds: 4, eased: true });
      live.put('walk/begun', { name: 'Not yet', stops: [stop(0)], seconds: 4, eased: true });
    });
    picture.timeS$.next(7);
    expect(part.walks().map(({ id }) => id)).toEqual(['w']);
    part.walkId.set('w');
    expect(part.frames()).toBe(100);
    await part.order(typed(''));
    const first = { position: [0, 0, 1.6], target: [5, 5, 1.6], focalMm: 28 };
    expect(asked[0]!.body).toMatchObject({
      name: 'Along the quay', camera: first, timeS: 0, channels: [],
      walk: { stops: [first, { focalMm: 28 }], seconds: 4, eased: true, framesPerSecond: 25, shutterDeg: 180 },
    }); // prettier-ignore
  });

  it('is ordered of what the picture shows: camera, exposure, name', async () => {
    const asked = answering(fine);
    const { part, picture } = onStage<Form>(PrintOrderForm);
    picture.viewName$.next('From the bank');
    picture.ev100$.next(13.4);
    picture.status$.next({ state: 'refining', progress: 0.1, fault: null });
    part.settings.width.set(1280);
    part.settings.height.set(720);
    await part.order(typed(''));
    expect(asked).toMatchObject([
      {
        url: '/api/prints',
        method: 'POST',
        body: { name: 'From the bank', camera: picture.camera$.value, width: 1280, height: 720, quality: 'standard', seed: 1, ev100: 13.4, format: 'png', projection: { kind: 'perspective' } },
      },
    ]); // prettier-ignore
    expect(part.orders.fault()).toBe('');
    // Just after a change, the exposure is of before: the print measures its own.
    picture.status$.next({ state: 'draft', progress: 0, fault: null });
    await part.order(typed(''));
    expect(asked[1]!.body).not.toHaveProperty('ev100');
  });

  it('goes all round at the shape that asks for, and knows its region in pixels', async () => {
    const asked = answering(fine);
    const { part } = onStage<Form>(PrintOrderForm);
    part.settings.width.set(1000);
    part.settings.height.set(500);
    part.settings.region.set({ left: 0.25, top: 0.5, width: 0.5, height: 0.25 });
    await part.order(typed(''));
    expect(asked[0]!.body).toMatchObject({ region: { left: 250, top: 250, width: 500, height: 125 } });
    part.setKind('pair');
    part.settings.width.set(4096);
    await part.order(typed(''));
    expect(asked[1]!.body).toMatchObject({ width: 4096, height: 4096, projection: { kind: 'equirectangular', eyesM: 0.064 } });
    expect(asked[1]!.body).not.toHaveProperty('region');
    part.setKind('cube');
    part.settings.width.set(6000);
    await part.order(typed(''));
    expect(asked[2]!.body).toMatchObject({ width: 6000, height: 1000, projection: { kind: 'cube' } });
  });

  it('tells in the server’s words why it was refused, and that it is out of reach when it is', async () => {
    const { part } = onStage<Form>(PrintOrderForm);
    answering(() => Promise.resolve(new Response('{"message":"The width must be at least 16."}', { status: 400 })));
    await part.order(typed(''));
    expect(part.orders.fault()).toBe('The width must be at least 16.');
    answering(() => Promise.reject(new TypeError('Failed to fetch')));
    await part.order(typed(''));
    expect(part.orders.fault()).toBe('The server is out of reach; nothing was ordered.');
    answering(fine);
    await part.order(typed(''));
    expect(part.orders.fault()).toBe('');
  });

  it('says before how long it takes, by what this computer has done of late', () => {
    const { part, live } = onStage<Form>(PrintOrderForm);
    live.prints$.next({ ...live.prints$.value, samplesPerSecond: 1_000_000 });
    part.settings.width.set(1000);
    part.settings.height.set(1000);
    // 128 samples of a million pixels.
    expect(part.about().time).toBe('2 min');
    expect([0.2, 41.6, 89, 91, 5400, 40_000].map(durationWords)).toEqual(['1 s', '42 s', '89 s', '2 min', '1.5 h', '11 h']);
    expect([900, 1.5e6, 2.4e8, 3e9].map(sizeWords)).toEqual(['1 kB', '1.5 MB', '240 MB', '3.0 GB']);
  });
});

describe('the register', () => {
  interface Register {
    views(): { id: string; name: string }[];
    columns(): { key: string; conditionName?: string; optionName?: string }[];
    tick(views: unknown[], columns: unknown[]): void;
    names(): string[];
    pattern: { set(pattern: string): void };
    unknown(): string[];
    order(): Promise<void>;
    mark(view: unknown, column: unknown): string;
  }
  const register = () =>
    onStage<Register>(DrawingRegister, (live) => {
      live.put('view/a', VIEW);
      live.put('view/b', { ...VIEW, name: 'Hall' });
      live.put('condition/dusk', { name: 'Dusk' });
      const model = applyChange(EMPTY_MODEL, testChange({ elements: [testElement('e')] }));
      const options = [{ id: 'p', name: 'Pitched' }, { id: 'f', name: 'Folded' }]; // prettier-ignore
      live.models$.next(new Map([['s', { ...model, presentation: { ...model.presentation, options } }]]));
    });

  it('orders each picture that is ticked, under its condition and option, by the pattern of names', async () => {
    const asked = answering(fine);
    const { part } = register();
    expect(part.columns().map(({ conditionName, optionName }) => [conditionName, optionName])).toEqual([
      [undefined, 'Pitched'], [undefined, 'Folded'], ['Dusk', 'Pitched'], ['Dusk', 'Folded'],
    ]); // prettier-ignore
    part.tick(part.views(), [part.columns()[2]!]);
    part.tick([part.views()[1]!], [part.columns()[1]!]);
    expect(part.names()).toEqual(['01 Bank Dusk Pitched', '02 Hall Folded', '03 Hall Dusk Pitched']);
    part.pattern.set('{view}-{weather}');
    expect(part.unknown()).toEqual(['weather']);
    part.pattern.set('{view}');
    await part.order();
    expect(asked[0]).toMatchObject({
      url: '/api/deliveries',
      body: {
        name: 'For the client',
        orders: [
          { fileName: 'Bank', order: { name: 'Bank', condition: 'dusk', option: { source: 's', option: 'p' } } },
          { fileName: 'Hall', order: { name: 'Hall', option: { source: 's', option: 'f' } } },
          { fileName: 'Hall (2)', order: { condition: 'dusk' } },
        ],
      },
    });
    expect(part.names()).toEqual([]);
  });

  it('ticks a row or a column as a whole, and takes the ticks away where all are there', () => {
    const { part } = register();
    part.tick([part.views()[0]!], part.columns());
    expect(part.names()).toHaveLength(4);
    part.tick(part.views(), [part.columns()[0]!]);
    expect(part.names()).toHaveLength(5);
    part.tick([part.views()[0]!], part.columns());
    expect(part.names()).toHaveLength(1);
  });

  it('shows what has become of a picture', () => {
    const { part, live } = register();
    const print = { name: 'Hall', condition: 'Dusk', option: 'Folded', delivery: 'd', state: 'finished' } as PrintSummary;
    live.prints$.next({ ...live.prints$.value, prints: [print] });
    expect(
      part.views().map((view) =>
        part
          .columns()
          .map((column) => part.mark(view, column))
          .join(''),
      ),
    ).toEqual(['', '●']);
    expect(part.mark(part.views()[1], part.columns()[3])).toBe('●');
  });
});

describe('prints', () => {
  interface List {
    queued(): { id: string }[];
    made(): { id: string }[];
    search: { set(words: string): void };
    starredOnly: { set(only: boolean): void };
    step(event: Event, print: unknown, by: number): void;
    compare(print: PrintSummary): void;
    table: LightTable;
    orders: { act(id: string, action: string): Promise<boolean>; remove(id: string): Promise<boolean> };
  }
  const some = (id: string, extra: Partial<PrintSummary> = {}): PrintSummary =>
    ({ id, name: 'Hall', condition: null, option: null, note: '', fileName: null, state: 'finished', position: 1, starred: false, format: 'png', files: [], ...extra }) as unknown as PrintSummary; // prettier-ignore
  const list = (...prints: PrintSummary[]) => {
    const stage = onStage<List>(PrintList);
    stage.live.prints$.next({ ...stage.live.prints$.value, prints });
    return stage;
  };

  it('that wait stand in their order before those that are made, and move among themselves', () => {
    const asked = answering(fine);
    const { part } = list(some('done'), some('c', { state: 'waiting', position: 3 }), some('b', { state: 'waiting', position: 2 }), some('a', { state: 'rendering', position: 4 })); // prettier-ignore
    expect([part.queued().map(({ id }) => id), part.made().map(({ id }) => id)]).toEqual([['a', 'b', 'c'], ['done']]);
    part.step(typed(''), part.queued()[2], -1);
    part.step(typed(''), part.queued()[1], 1);
    expect(asked.map(({ url, body }) => [url, body])).toEqual([
      ['/api/prints/c/move', { before: 'b' }],
      ['/api/prints/b/move', { before: null }],
    ]);
  });

  it('are found by view, condition and note, and by their star', () => {
    const { part } = list(
      some('1', { condition: 'Dusk' }),
      some('2', { note: 'for the council', starred: true }),
      some('3', { name: 'Quay' }),
    );
    const found = () => part.made().map(({ id }) => id);
    part.search.set('hall');
    expect(found()).toEqual(['1', '2']);
    part.search.set('hall council');
    expect(found()).toEqual(['2']);
    part.search.set('');
    part.starredOnly.set(true);
    expect(found()).toEqual(['2']);
  });

  it('are compared two by two', () => {
    const { part } = list();
    part.compare(some('1', { condition: 'Dusk' }));
    part.compare(some('2', { format: 'jpeg' }));
    expect(part.table.comparison$.value).toEqual({
      left: { name: 'Hall, Dusk', picture: '/api/prints/1/picture.png' },
      right: { name: 'Hall', picture: '/api/prints/2/picture.jpg' },
    });
  });

  it('are cancelled and removed by their number', async () => {
    const asked = answering(fine);
    const { part } = list();
    await part.orders.act('p7', 'cancel');
    await part.orders.remove('p7');
    expect(asked.map((a) => `${a.method} ${a.url}`)).toEqual(['POST /api/prints/p7/cancel', 'DELETE /api/prints/p7']);
  });

  it('stand beside the model, once there is one', () => {
    const { part, live } = onStage<{ hasModel(): boolean }>(DeliveryStation);
    expect(part.hasModel()).toBe(false);
    live.models$.next(new Map([['s', applyChange(EMPTY_MODEL, testChange({ elements: [testElement('a')] }))]]));
    expect(part.hasModel()).toBe(true);
  });
});
