import { useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';

/**
 * Throws something away and offers to have it back. What lists show under the given key is asked for anew.
 * @returns a function of the thing's name, what throws it away, and what brings it back
 */
export function useRemoval(key: readonly unknown[]) {
  const queries = useQueryClient();
  const refresh = () => queries.invalidateQueries({ queryKey: key });
  return async (name: string, remove: () => Promise<unknown>, restore: () => Promise<unknown>): Promise<void> => {
    const back = async () => {
      try {
        await restore();
        await refresh();
        toast(`${name} is back`);
      } catch (error) {
        toast.error(`${name} could not be brought back: ${(error as Error).message}`);
      }
    };
    try {
      await remove();
      await refresh();
      toast(`${name} thrown away`, { duration: 10_000, action: { label: 'Undo', onClick: () => void back() } });
    } catch (error) {
      toast.error(`${name} was not thrown away: ${(error as Error).message}`);
    }
  };
}
