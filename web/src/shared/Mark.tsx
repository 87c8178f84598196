/** The mark: two lines that run apart from a point, left amber and right ice blue. */
export function Mark({ size = 28 }: { size?: number }) {
  return (
    <svg
      width={size}
      height={size}
      viewBox="0 0 32 32"
      fill="none"
      strokeWidth={5}
      strokeLinecap="round"
      role="img"
      aria-label="Wedge Turn"
    >
      <path d="M14 4 6 28" stroke="var(--chakra-colors-left)" />
      <path d="M18 4 26 28" stroke="var(--chakra-colors-right)" />
    </svg>
  );
}
