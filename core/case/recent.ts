/** What was asked for last, up to a number of entries; each is fetched once. */
export class Recent<T> {
  private readonly kept = new Map<string, Promise<T>>();

  constructor(private readonly most: number) {}

  get(key: string, fetch: () => Promise<T>): Promise<T> {
    let value = this.kept.get(key);
    if (value !== undefined) this.kept.delete(key);
    else {
      value = fetch();
      // What failed is tried again when it is next asked for.
      value.catch(() => this.kept.delete(key));
    }
    this.kept.set(key, value);
    if (this.kept.size > this.most) this.kept.delete(this.kept.keys().next().value!);
    return value;
  }
}
