import { screen, waitFor } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import { expect, test } from 'vitest';
import { serve, show } from '../test/page';
import { Checked } from './Checked';

const finding = (text: string, repair: string | null) => ({ file: 'kit.plist', key: null, text, repair });

test('only what is certain is mended by a click; the rest is for a person', async () => {
  localStorage.setItem('fresh-boot-who', 'Pim');
  const asked = serve({ 'POST /api/kits/4/repair': { id: 5 } });
  show(
    <Checked
      kit={
        {
          id: 4,
          findings: [
            finding('a date', 'Set the date'),
            finding('a strange shim', null),
            finding('a name', 'Set the name'),
          ],
        } as never
      }
    />,
    '/kits/4',
  );
  expect(await screen.findByText('for a person')).toBeTruthy();
  await userEvent.click(screen.getByRole('button', { name: 'Set the name' }));
  await userEvent.click(screen.getByRole('button', { name: 'Mend all 2 that are certain' }));
  await waitFor(() => {
    expect(asked.filter((a) => a.method === 'POST').map((a) => a.body)).toEqual([
      { by: 'Pim', findings: [2] },
      { by: 'Pim', findings: null },
    ]);
  });
});
