/** Kind and name at the head of an inspector. */
export function Head({ kind, name }: { kind: string; name: string }) {
  return (
    <header className="pb-1">
      <p className="text-[12px] font-semibold tracking-wide text-quiet">{kind}</p>
      <h2 className="text-[17px] leading-6 font-semibold">{name}</h2>
    </header>
  );
}
