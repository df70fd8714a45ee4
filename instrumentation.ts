/** Called by the framework when the server starts. */
export async function register(): Promise<void> {
  if (process.env.NEXT_RUNTIME !== 'nodejs') return;
  const { start } = await import('./server/start');
  await start();
}
