/** Forms: nothing is ordered while a field of it is wrong. */

/** Whether all is right in a form. What is wrong first takes the focus. */
export function allRight(form: HTMLElement): boolean {
  const wrong = form.querySelector<HTMLElement>('[aria-invalid="true"]');
  wrong?.focus();
  return !wrong;
}
