import { act, renderHook } from '@testing-library/react';
import { beforeEach, expect, test, vi } from 'vitest';
import { rememberLamp, useLamp } from './lamp';

let dark = false;
let heard: (() => void)[] = [];

beforeEach(() => {
  dark = false;
  heard = [];
  delete document.documentElement.dataset['lamp'];
  vi.stubGlobal('matchMedia', () => ({
    get matches() {
      return dark;
    },
    addEventListener: (_: string, hear: () => void) => heard.push(hear),
  }));
});

const lamp = () => document.documentElement.dataset['lamp'];

test('until somebody switches it follows the wish of the system, also when that changes', () => {
  rememberLamp();
  expect(lamp()).toBeUndefined();
  dark = true;
  act(() => {
    heard.forEach((hear) => {
      hear();
    });
  });
  expect(lamp()).toBe('off');
});

test('what somebody switched stays, whatever the system wishes then', () => {
  dark = true;
  rememberLamp();
  const { result } = renderHook(useLamp);
  expect(result.current[0]).toBe(true);
  act(() => {
    result.current[1]();
  });
  expect(lamp()).toBeUndefined();
  expect(result.current[0]).toBe(false);
  dark = true;
  act(() => {
    heard.forEach((hear) => {
      hear();
    });
  });
  expect(lamp()).toBeUndefined();
});
