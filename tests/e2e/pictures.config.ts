import base from './playwright.config.ts';

// The pictures of the README, from the demo fleet with the clock standing still: npm --prefix tests/e2e run pictures
export default { ...base, testMatch: 'pictures.ts', use: { ...base.use, freeze: true } };
