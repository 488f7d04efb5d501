/** What a figure is called that comes from files at these places: as the only one, or as the folder that holds them. */
export function figureAt(places: readonly string[]): string {
  const [first = ""] = places;
  const parts = first.split("/");
  const name = places.length === 1 ? parts.at(-1)!.replace(/\.[^.]*$/, "") : parts.length > 1 ? parts[0]! : "";
  return name || "Puppet";
}
