/** Heavy work on packages; each piece is a function of one of these worker files. */
import { workOf } from '../platform/workers.ts';
import type * as captureFunctions from './capture-worker.ts';
import type * as containerFunctions from './container-worker.ts';
import type * as identityFunctions from './identity-worker.ts';
import type * as uploadFunctions from './upload-worker.ts';

export const captureWork = workOf<typeof captureFunctions>('package/capture-worker.js');
export const containerWork = workOf<typeof containerFunctions>('package/container-worker.js');
export const identityWork = workOf<typeof identityFunctions>('package/identity-worker.js', 'intake');
export const uploadWork = workOf<typeof uploadFunctions>('package/upload-worker.js', 'intake');
