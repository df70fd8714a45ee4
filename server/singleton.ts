/**
 * One instance a process, however often the framework loads the module that asks for it.
 */
export function singleton<T>(name: string, make: () => T): T {
  const store = globalThis as unknown as { orvidSingletons?: Map<string, unknown> };
  store.orvidSingletons ??= new Map();
  if (!store.orvidSingletons.has(name)) store.orvidSingletons.set(name, make());
  return store.orvidSingletons.get(name) as T;
}
