/**
 * Watch that the page is not left by mistake: not while it `must stay` because changes are still on their way, and not for a
 * file that is dropped beside where it is wanted. Gives what ends that.
 */
export function keepPage(mustStay: () => boolean): () => void {
  const leaving = (event: BeforeUnloadEvent) => {
    if (mustStay()) event.preventDefault();
  };
  const beside = (event: DragEvent) => {
    const { target } = event;
    const wanted = target instanceof Element && target.matches("input[type=file]");
    if (event.defaultPrevented || wanted || !event.dataTransfer?.types.includes("Files")) return;
    event.preventDefault();
    event.dataTransfer.dropEffect = "none";
  };
  window.addEventListener("beforeunload", leaving);
  window.addEventListener("dragover", beside);
  window.addEventListener("drop", beside);
  return () => {
    window.removeEventListener("beforeunload", leaving);
    window.removeEventListener("dragover", beside);
    window.removeEventListener("drop", beside);
  };
}
