import { useEffect, useState } from 'react';
import { useDesk } from '../desk/desk';
import { onServerBack } from './link';

/** How often the server has come back since this was shown: what depends on it asks again then. */
export function useServerReturns(): number {
  const desk = useDesk();
  const [returns, setReturns] = useState(0);
  useEffect(() => onServerBack(desk, () => setReturns((before) => before + 1)), [desk]);
  return returns;
}
