export async function bench(): Promise<void> {}
