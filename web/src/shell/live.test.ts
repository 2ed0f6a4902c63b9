import { QueryClient, QueryObserver } from '@tanstack/react-query';
import { expect, test } from 'vitest';
import { lookAgain } from './live';

test('a change that is told while the first answer is on its way is not lost', async () => {
  const client = new QueryClient();
  const answers: ((text: string) => void)[] = [];
  const observer = new QueryObserver(client, {
    queryKey: ['jobs', 9],
    queryFn: () =>
      new Promise<string>((answer) => {
        answers.push(answer);
      }),
  });
  const stop = observer.subscribe(() => undefined);
  expect(answers).toHaveLength(1);
  lookAgain(client, (what) => what === 'jobs');
  // The answer was made before the change; the next one comes after it.
  answers[0]?.('running');
  await expect.poll(() => answers.length).toBe(2);
  answers[1]?.('done');
  await expect.poll(() => observer.getCurrentResult().data).toBe('done');
  stop();
});

test('what is shown already is asked for once', async () => {
  const client = new QueryClient();
  let asked = 0;
  const observer = new QueryObserver(client, {
    queryKey: ['machines'],
    queryFn: () => Promise.resolve(++asked),
  });
  const stop = observer.subscribe(() => undefined);
  await expect.poll(() => observer.getCurrentResult().data).toBe(1);
  lookAgain(client, (what) => what === 'machines');
  await expect.poll(() => observer.getCurrentResult().data).toBe(2);
  lookAgain(client, (what) => what === 'jobs');
  await new Promise((soon) => setTimeout(soon, 20));
  expect(asked).toBe(2);
  stop();
});
