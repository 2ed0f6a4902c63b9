import tailwindcss from '@tailwindcss/vite';
import react from '@vitejs/plugin-react';
import { defineConfig } from 'vitest/config';

export default defineConfig({
  plugins: [react(), tailwindcss()],
  build: { target: 'es2022', assetsInlineLimit: 0 },
  // One stand-in for a browser for all files: setting one up for each takes four times as long as the tests.
  test: { environment: 'jsdom', setupFiles: 'src/test/setup.ts', pool: 'threads', isolate: false },
  server: {
    // A test holds the browser tests against the screens.
    fs: { allow: ['..'] },
    proxy: { '/api': 'http://localhost:5080', '/openapi': 'http://localhost:5080' },
  },
});
