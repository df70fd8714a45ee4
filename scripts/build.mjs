/** `npm run build`: everything that is built, unless it is up to date. */
import { ensureBuild, ensureDependencies } from './setup.mjs';

ensureDependencies();
await ensureBuild();
