import { errorText } from '../format';

/**
 * Answers come in any order: applies an answer only while nothing was asked
 * after it, so that what is shown belongs to the last question.
 */
export function latest(): <T>(answer: Promise<T>, apply: (value: T) => void) => Promise<void> {
  let asked = 0;
  return async (answer, apply) => {
    const own = ++asked;
    const value = await answer;
    if (own === asked) apply(value);
  };
}

/**
 * For a view that asks again whenever something changes: shows the last
 * answer alone, and says where asking failed.
 */
export function answersFor(
  opened: () => { failure: string | null }
): <T>(answer: Promise<T>, apply: (value: T) => void) => void {
  const last = latest();
  return (answer, apply) => {
    last(answer, apply).catch((error: unknown) => {
      opened().failure = errorText(error);
    });
  };
}
