import { createGlobalStyle } from "styled-components";

const day = `
  color-scheme: light;
  --paper: #fbf8f1; --raised: #ffffff; --ink: #191713; --soft: #4b463c; --line: #d9d2c2; --edge: #8a8170;
  --accent: #14524a; --on-accent: #ffffff; --accent-wash: #e2ede9;
  --holds: #14532d; --losing: #6b4300; --falling: #8c1d18; --open: #3b4553; --notch: #7a1448; --none: #4b463c;
  --wash: #f1ebdd; --shade: rgba(25, 23, 19, 0.06); --ribbon: rgba(20, 82, 74, 0.2);
`;
const plant = `
  color-scheme: dark;
  --paper: #12161a; --raised: #1a2026; --ink: #f3efe6; --soft: #c3beb2; --line: #343c44; --edge: #7d8790;
  --accent: #86d0c2; --on-accent: #0c1a18; --accent-wash: #20332f;
  --holds: #94dcae; --losing: #f2c478; --falling: #ffab9f; --open: #c3cfde; --notch: #f3a8cf; --none: #c3beb2;
  --wash: #20272e; --shade: rgba(243, 239, 230, 0.08); --ribbon: rgba(134, 208, 194, 0.22);
`;

/** The sizes of type there are. */
const type = `
  --t-tiny: 0.8rem; --t-small: 0.88rem; --t-note: 0.94rem; --t-body: 1rem; --t-lead: 1.1rem; --t-large: 1.25rem;
  --t-head: 1.4rem; --t-title: 1.75rem; --t-number: 2.25rem;
`;

/** Two themes; every colour anywhere is one of these names. */
export const Global = createGlobalStyle`
  :root { ${day} }
  @media (prefers-color-scheme: dark) { :root { ${plant} } }
  :root[data-theme="day"] { ${day} }
  :root[data-theme="plant"] { ${plant} }
  :root { ${type} }
  :root { --mono: "Atkinson Hyperlegible Mono Variable", monospace; }
  *, *::before, *::after { box-sizing: border-box; }
  html { -webkit-text-size-adjust: 100%; }
  /* The pad stays at the bottom of a phone: what gets the focus is scrolled clear of it. */
  @media (max-width: 760px) { html:has([data-docked]) { scroll-padding-bottom: 400px; } }
  body { margin: 0; background: var(--paper); color: var(--ink); font: 400 17px/1.4 "Atkinson Hyperlegible Next Variable", system-ui, sans-serif; }
  h1, h2, h3, p, ul, ol, dl, dd, figure { margin: 0; padding: 0; }
  ul, ol { list-style: none; }
  h1 { font-size: var(--t-head); font-weight: 650; line-height: 1.2; }
  h2 { font-size: var(--t-lead); font-weight: 650; }
  a { color: var(--accent); }
  button, input, select, textarea { font: inherit; color: inherit; }
  :focus-visible, [data-focus-visible] { outline: 3px solid var(--accent); outline-offset: 2px; }
  /* A sheet takes the focus as a whole only so that keys reach what is in it. */
  [role="dialog"]:focus { outline: none; }
  @media print {
    :root, :root[data-theme] { ${day} --paper: #ffffff; --wash: #ffffff; }
    body { font-size: 10.5pt; }
    @page { margin: 14mm; }
  }
`;
