import { render } from '@testing-library/react';
import { expect, test } from 'vitest';
import { handsOf, inkOf, outcomes, saysOf } from './outcomes';
import { RungShape } from './RungShape';
import { rungs } from './rungs';

test('each outcome has a shape, an ink, words and a place of its own: none rests on colour alone', () => {
  const shapes = outcomes.map((o) => {
    const { container } = render(<RungShape outcome={o} width={28} bar={5} />);
    const drawn = container.querySelector('svg')?.innerHTML ?? '';
    expect(drawn, o).not.toBe('');
    return drawn;
  });
  expect(new Set(shapes).size).toBe(outcomes.length);
  for (const of of [inkOf, saysOf, handsOf])
    expect(new Set(outcomes.map((o) => of[o])).size).toBe(outcomes.length);
});

test('there are ten rungs, release at the bottom and upkeep at the top', () => {
  expect(rungs.map((r) => r.name)).toEqual([
    'release',
    'parts',
    'firmware',
    'medium',
    'setup',
    'disk',
    'kernel',
    'devices',
    'use',
    'upkeep',
  ]);
});
