import type { VirtualItem } from '@tanstack/react-virtual';
import { useRef } from 'react';

interface Slots {
  /** Slot of each row index that is shown. */
  of: Map<number, number>;
  free: number[];
  /** Slots in the order of the document. */
  order: number[];
}

/** Gives slots to the rows shown: rows that stay keep theirs, rows that come take those of rows that left. */
export function assignSlots(old: Slots, indexes: readonly number[], keepOrder: boolean): Slots {
  const shown = new Set(indexes);
  const free = [...old.free];
  for (const [index, slot] of old.of) if (!shown.has(index)) free.push(slot);
  const of = new Map<number, number>();
  let next = old.of.size + old.free.length;
  for (const index of indexes) {
    const kept = old.of.get(index);
    if (kept !== undefined) of.set(index, kept);
  }
  for (const index of indexes) if (!of.has(index)) of.set(index, free.pop() ?? next++);
  if (!keepOrder) return { of, free, order: indexes.map((index) => of.get(index)!) };
  const used = new Set(of.values());
  const order = old.order.filter((slot) => used.delete(slot));
  return { of, free, order: [...order, ...used] };
}

/**
 * Virtual rows that hand on their elements: a row that comes into view takes over the element of one that left it,
 * so that scrolling changes texts and makes nothing new. While it scrolls the order of the elements stays as it is;
 * at rest they stand in the order of the rows, as keyboard and screen readers take them.
 */
export function useRecycled(
  items: readonly VirtualItem[],
  isScrolling: boolean,
): { item: VirtualItem; slot: number }[] {
  const slots = useRef<Slots>({ of: new Map(), free: [], order: [] });
  slots.current = assignSlots(
    slots.current,
    items.map(({ index }) => index),
    isScrolling,
  );
  const bySlot = new Map(items.map((item) => [slots.current.of.get(item.index)!, item]));
  return slots.current.order.map((slot) => ({ item: bySlot.get(slot)!, slot }));
}
