import type { Tour } from '../core/tour/tour';
import { showTour } from './tour';

/** The page tells its tour before this script. */
showTour((globalThis as unknown as { tour: Tour }).tour, document.getElementById('stage')!);
