/** What the tests run on: packages, programs, the built application and the demo song, made unless they are up to date. */
import { ensureBuild, ensureDemoData, ensureDependencies, ensureTestPrograms } from './setup.mjs';

ensureDependencies();
ensureTestPrograms();
await ensureBuild();
ensureDemoData();
