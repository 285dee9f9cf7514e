import { describe, expect, it } from 'vitest';
import { nameFits, readRules, ruleFor, rulesFile, withRules } from './rules';

describe('finish rules', () => {
  it('fit a name by what it holds, in any case and accent; * stands for anything', () => {
    expect(nameFits('putz', 'Außenputz 20 mm')).toBe(true);
    expect(nameFits('MÉLÈZE', 'bardage meleze 120')).toBe(true);
    expect(nameFits('wand*weiss', 'Wand EG Farbe Weiss matt')).toBe(true);
    expect(nameFits('weiss*wand', 'Wand EG Farbe Weiss matt')).toBe(false);
    expect(nameFits('(.+)+$', 'a'.repeat(100_000))).toBe(false);
    expect(nameFits('a*'.repeat(90), 'a'.repeat(499))).toBe(true);
  });

  it('take the first that fits', () => {
    const rules = [
      { pattern: 'oak*smoked', finish: 'smoked-boards' },
      { pattern: 'oak', finish: 'oak' },
    ];
    expect(ruleFor(rules, 'Oak, smoked')?.finish).toBe('smoked-boards');
    expect(ruleFor(rules, 'OAK 12')?.finish).toBe('oak');
    expect(ruleFor(rules, 'larch')).toBeUndefined();
  });

  it('go to a file and come back; of two with one pattern the newer stays', () => {
    const rules = [{ pattern: 'M-04*', finish: 'oak' }];
    expect(readRules('r.json', rulesFile(rules))).toEqual(rules);
    expect(withRules(rules, [{ pattern: 'm-04*', finish: 'brick' }])).toEqual([{ pattern: 'm-04*', finish: 'brick' }]);
    expect(withRules(rules, [{ pattern: 'x', finish: 'brick' }])).toHaveLength(2);
  });

  it('that are none are refused in a sentence', () => {
    expect(readRules('r.json', '{')).toEqual({ fault: 'r.json is broken JSON.' });
    expect(readRules('r.json', '{"format":"other"}')).toMatchObject({
      fault: expect.stringContaining('r.json holds no finish rules') as string,
    });
    expect(readRules('r.json', '{"format":"diaphane-finish-rules","version":1,"rules":[{"pattern":" ","finish":"oak"}]}')).toEqual({
      fault: 'r.json holds no finish rules: rules.0.pattern A rule needs a pattern.',
    });
  });
});
