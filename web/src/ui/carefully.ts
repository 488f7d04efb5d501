/** What could not be drawn is told once, and nothing else is held up by it. */
const told = new Set<string>();

export function carefully(work: () => void): void {
  try {
    work();
  } catch (error) {
    if (told.has(String(error))) return;
    told.add(String(error));
    console.error("Something here can't be drawn.", error);
  }
}
