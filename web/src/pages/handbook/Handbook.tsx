import { useEffect, useState } from "react";
import { Link, useLocation } from "react-router";
import styled from "styled-components";
import { Field } from "../../look/parts";
import { Page } from "../../look/page";
import { useTitle } from "../../look/title";
import { LEAVES, type Leaf } from "./text";

const Columns = styled.div`
  display: grid;
  grid-template-columns: minmax(170px, 240px) minmax(0, 68ch);
  gap: 20px 36px;
  align-items: start;
  @media (max-width: 760px) {
    grid-template-columns: minmax(0, 1fr);
  }
  nav {
    display: grid;
    gap: 2px;
  }
  nav a {
    padding: 12px 0;
  }
  section {
    display: grid;
    gap: 12px;
    scroll-margin-top: 80px;
    padding-bottom: 26px;
  }
  h2 {
    font-size: var(--t-head);
    border-top: 2px solid var(--ink);
    padding-top: 10px;
  }
  h3 {
    font-size: 1rem;
    margin-bottom: 4px;
  }
  li {
    margin: 0 0 8px 1.2em;
    list-style: disc;
  }
  img {
    width: 100%;
    height: auto;
    border: 1px solid var(--line);
    border-radius: 8px;
  }
`;

/** What of a page has all words of a search; the whole page, if its title has them. */
function found(leaf: Leaf, words: string[]): Leaf | null {
  const has = (...texts: string[]) => {
    const text = texts.join(" ").toLowerCase();
    return words.every((w) => text.includes(w));
  };
  if (has(leaf.title)) return leaf;
  const parts = leaf.parts
    .map((p) => ({
      ...p,
      lines: has(p.title, leaf.title)
        ? p.lines
        : p.lines.filter((l) => has(l, p.title, leaf.title)),
    }))
    .filter((p) => p.lines.length > 0);
  return parts.length > 0 ? { ...leaf, parts } : null;
}

/** How each stage goes, what each word means, what to do when it needs more. */
export default function Handbook() {
  useTitle("Handbook");
  const { hash } = useLocation();
  const [asked, setAsked] = useState("");
  const words = asked.toLowerCase().split(/\s+/).filter(Boolean);
  const leaves = LEAVES.flatMap((l) => found(l, words) ?? []);
  useEffect(() => {
    // A page by its name, or by a stage that leads here.
    const at = hash.slice(1);
    const leaf = LEAVES.find(
      (l) => l.id === at || l.stages?.some((s) => s === at),
    );
    if (leaf) document.getElementById(leaf.id)?.scrollIntoView();
  }, [hash]);
  return (
    <Page>
      <h1>Handbook</h1>
      <Columns>
        <div>
          <Field
            label="Search"
            value={asked}
            onChange={setAsked}
            placeholder="needs more"
          />
          <nav aria-label="Pages">
            {leaves.map((l) => (
              <Link key={l.id} to={`#${l.id}`}>
                {l.title}
              </Link>
            ))}
          </nav>
        </div>
        <div>
          {leaves.length === 0 && (
            <p role="status">Nothing here has all of these words.</p>
          )}
          {leaves.map((l) => (
            <section key={l.id} id={l.id} aria-labelledby={`${l.id}-title`}>
              <h2 id={`${l.id}-title`}>{l.title}</h2>
              {l.parts.map((p) => (
                <div key={p.title}>
                  <h3>{p.title}</h3>
                  <ul>
                    {p.lines.map((line) => (
                      <li key={line}>{line}</li>
                    ))}
                  </ul>
                </div>
              ))}
              {l.picture && words.length === 0 && (
                <img
                  src={l.picture.src}
                  alt={l.picture.says}
                  width={1280}
                  height={800}
                  loading="lazy"
                />
              )}
            </section>
          ))}
        </div>
      </Columns>
    </Page>
  );
}
