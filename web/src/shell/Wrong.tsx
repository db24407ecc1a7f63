/** Wrong says what did not work, where it was tried; nothing while all is well. */
export function Wrong({ says, className = "mt-1.5" }: { says: string; className?: string }) {
  if (!says) return null;
  return (
    <p role="alert" className={`border-l-[3px] border-clash bg-clash-wash px-2 py-1 text-small ${className}`}>
      {says}
    </p>
  );
}
