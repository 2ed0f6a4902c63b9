import { cleanup } from '@testing-library/react';
import { afterEach, vi } from 'vitest';

// What a browser has and the stand-in for one has not.
vi.stubGlobal('matchMedia', (query: string) => ({
  matches: false,
  media: query,
  addEventListener: () => undefined,
  removeEventListener: () => undefined,
}));
vi.stubGlobal(
  'ResizeObserver',
  class {
    observe() {
      return undefined;
    }
    unobserve() {
      return undefined;
    }
    disconnect() {
      return undefined;
    }
  },
);

afterEach(() => {
  cleanup();
  localStorage.clear();
  vi.unstubAllEnvs();
});
