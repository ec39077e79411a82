import { workOf } from '../platform/workers.ts';
import type * as inventoryFunctions from './inventory-worker.ts';

/** Heavy work on inventories. */
export const inventoryWork = workOf<typeof inventoryFunctions>('image/inventory-worker.js');
