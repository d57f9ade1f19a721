import { Link } from 'react-router';

/** The bar of pages that belong to no crate: it leads back to all of them. */
export function PlainBar() {
  return (
    <header className="bar">
      <Link to="/" className="brand" title="All crates">
        <img src="/icon.svg" width={22} height={22} alt="" /> Violet Crate
      </Link>
    </header>
  );
}
