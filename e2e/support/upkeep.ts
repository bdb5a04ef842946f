import type { Page } from '@playwright/test';
import { paneOf } from './people.ts';

/* The dashboard of the demo on which most is done to records. */

export const upkeep = '/desk/skerry-sound/vessel-upkeep';
export const list = (page: Page) => paneOf(page, 'Unfinished orders, longest due first');
export const rows = (page: Page) => list(page).locator('tbody tr');
export const notice = (page: Page) => page.getByRole('status', { name: 'What was done' });
