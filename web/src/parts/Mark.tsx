/** Plinket's mark: a head lit from one side by a small panel, and the name. */
export function Mark() {
  return (
    <>
      <svg viewBox="0 0 32 32" width={20} height={20} aria-hidden>
        <circle cx="18.5" cy="18" r="10" fill="currentColor" opacity="0.4" />
        <path d="M18.5 8a10 10 0 0 0-7 17.1L25.6 11A10 10 0 0 0 18.5 8Z" fill="currentColor" />
        <rect x="1" y="4" width="11" height="3.4" rx="0.8" fill="#e69f00" transform="rotate(-45 6.5 5.7)" />
      </svg>
      <span className="text-[15px] font-bold tracking-tight [font-stretch:112%]">plinket</span>
    </>
  );
}
