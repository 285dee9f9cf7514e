import { keepBrowsers } from './stage';

/** Before each file of journeys. */
keepBrowsers();
