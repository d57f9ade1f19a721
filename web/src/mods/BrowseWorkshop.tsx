import { useEffect, useState } from 'react';
import { getJson, message } from '../api/http.ts';
import type { WorkshopCard } from '../api/types.ts';
import { Busy, Trouble } from '../common/Busy.tsx';
import { plural } from '../common/format.ts';
import { Icon } from '../common/Icon.tsx';

interface Props {
  game: string;
  /** Versions of what is installed, by name. */
  installed: ReadonlyMap<string, string>;
  busy: boolean;
  install(shareCode: string): void;
}

/** Milliseconds that typing may rest before the workshop is asked. */
const REST = 250;

/** What the workshop lists for a game: searched, sorted, installed from here. */
export function BrowseWorkshop({ game, installed, busy, install }: Props) {
  const [query, setQuery] = useState('');
  const [sort, setSort] = useState('new');
  const [page, setPage] = useState(0);
  const [again, setAgain] = useState(0);
  const [found, setFound] = useState<{ cards: WorkshopCard[]; total: number } | null>(null);
  const [problem, setProblem] = useState('');
  useEffect(() => {
    let gone = false;
    const timer = setTimeout(() => {
      getJson<{ cards: WorkshopCard[]; total: number }>(
        `/api/games/${game}/mods/browse?${new URLSearchParams({ q: query, sort, page: String(page) }).toString()}`,
      )
        .then((answer) => !gone && (setFound(answer), setProblem('')))
        .catch((error) => !gone && setProblem(message(error)));
    }, REST);
    return () => {
      gone = true;
      clearTimeout(timer);
    };
  }, [game, query, sort, page, again]);
  return (
    <section className="panel" aria-label="Workshop">
      <header>
        <h2>On the workshop</h2>
        <div className="d-flex gap-2">
          <input
            className="form-control form-control-sm"
            placeholder="Search"
            aria-label="Search the workshop"
            value={query}
            onChange={(event) => {
              setQuery(event.target.value);
              setPage(0);
            }}
          />
          <select className="form-select form-select-sm w-auto" aria-label="Order" value={sort} onChange={(event) => setSort(event.target.value)}>
            <option value="new">Newest first</option>
            <option value="liked">Best rated first</option>
            <option value="used">Most downloaded first</option>
          </select>
        </div>
      </header>
      {problem ? (
        <Trouble retry={() => setAgain(again + 1)}>{problem}</Trouble>
      ) : !found ? (
        <Busy what="Asking the workshop" />
      ) : found.cards.length === 0 ? (
        <p className="body faint mb-0">
          {query ? 'Nothing fits.' : 'Nothing is listed for this game yet. Publish something of your own and list it.'}
        </p>
      ) : (
        <>
          <ul className="workshop-cards">
            {found.cards.map((card) => (
              <li key={card.name} data-card={card.name}>
                <img src={`/api/workshop/releases/${card.shareCode}/thumbnail`} alt="" loading="lazy" />
                <div>
                  <strong>{card.title}</strong> {card.version}
                  <div className="faint">
                    by {card.organisation} · {plural(card.downloads, 'download')} ·{' '}
                    {card.stars === null ? 'not rated yet' : `${card.stars.toFixed(1)} of 5 stars`}
                  </div>
                  <p className="mb-1">{card.summary}</p>
                  {installed.get(card.name) === card.version ? (
                    <span className="stamp clear">
                      <Icon name="check-circle" /> installed
                    </span>
                  ) : (
                    <button
                      className="btn btn-quiet btn-sm"
                      disabled={busy}
                      onClick={() => install(card.shareCode)}
                      aria-label={`Install ${card.title}`}
                    >
                      <Icon name="cloud-download" /> {installed.has(card.name) ? `Take ${card.version}` : 'Install'}
                    </button>
                  )}
                </div>
              </li>
            ))}
          </ul>
          <div className="body d-flex gap-2">
            {page > 0 && (
              <button className="btn btn-quiet btn-sm" onClick={() => setPage(page - 1)}>
                Before
              </button>
            )}
            {(page + 1) * 24 < found.total && (
              <button className="btn btn-quiet btn-sm" onClick={() => setPage(page + 1)}>
                More
              </button>
            )}
            <span className="faint">{plural(found.total, 'mod')}</span>
          </div>
        </>
      )}
    </section>
  );
}
