/** Puts a value at the end of the list that a map has under a key. */
export function addTo<K, V>(map: Map<K, V[]>, key: K, value: V): void {
  const list = map.get(key);
  if (list) list.push(value);
  else map.set(key, [value]);
}

/** Lists by what a key says of each of their values, in the order in which keys come. */
export function groupedBy<K, V>(values: Iterable<V>, keyOf: (value: V) => K): Map<K, V[]> {
  const groups = new Map<K, V[]>();
  for (const value of values) addTo(groups, keyOf(value), value);
  return groups;
}
