import { describe, expect, it } from 'vitest';
import { applyChange, EMPTY_MODEL } from '../model/model';
import { testChange, testElement } from '../model/testing';
import { assignmentKey, overrideKey } from './project';
import { sleepingDecisions } from './sleeping';

describe('sleeping decisions', () => {
  it('are those whose element or source material the model does not have now', () => {
    const model = applyChange(EMPTY_MODEL, testChange({ elements: [testElement('wall')], materials: [{ id: 'oak', name: 'Oak', colour: [1, 1, 1] }] })); // prettier-ignore
    const entries = new Map<string, unknown>(
      [overrideKey('s', 'wall'), overrideKey('s', 'gone'), assignmentKey('s', 'oak'), assignmentKey('s', 'slate'), 'nudge/s/away', overrideKey('other', 'x'), 'sun'].map((key) => [key, {}]), // prettier-ignore
    );
    expect(sleepingDecisions('s', model, entries).map((d) => `${d.kind} ${d.of}`)).toEqual([
      'element gone',
      'source material slate',
      'element away',
    ]);
    const back = applyChange(model, testChange({ elements: [testElement('gone')] }));
    expect(sleepingDecisions('s', back, entries).map((d) => d.of)).toEqual(['slate', 'away']);
  });
});
