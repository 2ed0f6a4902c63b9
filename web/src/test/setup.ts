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

// jsdom's files have no text() yet; every browser's have.
Blob.prototype.text = function (this: Blob) {
  return new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => {
      resolve(reader.result as string);
    };
    reader.onerror = () => {
      reject(new Error('the file cannot be read'));
    };
    reader.readAsText(this);
  });
};
