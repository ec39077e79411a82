/** What changes: somebody asks what Monday brings a clerk, and looks at what makes it so. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { beginJourney } from './journey.ts';
