import { createContext, useContext } from 'react';
import { useStore } from 'zustand';
import type { StoreApi } from 'zustand/vanilla';
import type { WallState } from './wall.ts';

export const WallContext = createContext<StoreApi<WallState> | undefined>(undefined);

export function useWall(): StoreApi<WallState> {
  const wall = useContext(WallContext);
  if (!wall) throw new Error('Outside of the wall.');
  return wall;
}
export const useWallState = <T>(select: (w: WallState) => T): T => useStore(useWall(), select);
