import { config } from 'zod/v4/core';

// The page's policy forbids code that is made of text. The schema library would try whether it may, which browsers report as a breach.
config({ jitless: true });
