import { describe, expect, it } from 'vitest';
import { blank, changedLines, differences, resolve, type Shape } from './schema';

const root: Shape = {
  properties: { systems: { type: 'array', items: { $ref: '#/$defs/system' } } },
  $defs: {
    id: { type: 'string' },
    rung: { enum: ['release', 'parts'] },
    minutes: { type: 'integer', minimum: 3 },
    system: {
      type: 'object',
      required: ['id', 'rung', 'minutes', 'requirements'],
      properties: {
        id: { $ref: '#/$defs/id', description: 'its id' },
        rung: { $ref: '#/$defs/rung' },
        minutes: { $ref: '#/$defs/minutes' },
        requirements: { type: 'array', items: { $ref: '#/$defs/id' } },
        released: { type: 'string' },
      },
    },
  },
};

describe('a schema as a form reads it', () => {
  it('follows references and keeps what stands beside them', () => {
    expect(resolve({ $ref: '#/$defs/id', description: 'its id' }, root)).toEqual({
      type: 'string',
      description: 'its id',
    });
  });

  it('starts with what is required and nothing else', () => {
    expect(blank({ $ref: '#/$defs/system' }, root)).toEqual({
      id: '',
      rung: 'release',
      minutes: 3,
      requirements: [],
    });
  });
});

describe('a difference', () => {
  it('gives back both texts', () => {
    const [before, after] = ['a\nb\nc\nd', 'a\nx\nc\nd\ne'];
    const lines = differences(before, after);
    const text = (mark: '-' | '+') =>
      lines
        .filter((l) => l.mark === ' ' || l.mark === mark)
        .map((l) => l.line)
        .join('\n');
    expect(text('-')).toBe(before);
    expect(text('+')).toBe(after);
    expect(lines.filter((l) => l.mark !== ' ').map((l) => l.mark + l.line)).toEqual(['-b', '+x', '+e']);
  });

  it('leaves out what did not change', () => {
    expect(changedLines('a\nb\nc\nd\ne', 'a\nb\nx\nd\ne').map((l) => l.mark + l.line)).toEqual([
      ' b',
      '-c',
      '+x',
      ' d',
    ]);
    expect(changedLines('a', 'a')).toEqual([]);
  });
});
