/** A Bootstrap icon; decorative, so the word beside it carries the meaning. */
export function Icon({ name, className = '' }: { name: string; className?: string }) {
  return <i className={`bi bi-${name} ${className}`} aria-hidden="true" />;
}
