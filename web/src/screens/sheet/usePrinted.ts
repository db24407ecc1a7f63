import { useEffect } from "react";

/** inCss is a text as a string of a stylesheet. */
export const inCss = (s: string) => `"${s.replace(/[\\"]/g, "\\$&").replace(/\s+/g, " ")}"`;

/** edges is the stylesheet that puts code, title and revision, and the number of the page, at the edges of every printed page. */
export function edges(code: string, title: string, revision: string) {
  const type = 'font: 8.5pt "Archivo Variable", system-ui, sans-serif; color: #4a5661;';
  const box = (at: string, content: string) => `@${at} { content: ${content}; ${type} }`;
  return `@page {
    ${box("top-left", `${inCss(code)} "\\2003" ${inCss(title)}`)}
    ${box("top-right", inCss(revision))}
    ${box("bottom-left", inCss("Does not replace the maker’s own data, local rules or a licensed technician’s judgement."))}
    ${box("bottom-right", 'counter(page) " of " counter(pages)')}
  }`;
}

/** usePrinted names the sheet at the edges of its printed pages and in the file it is saved as. */
export function usePrinted(code?: string, title?: string, revision?: string) {
  useEffect(() => {
    if (!code || !title || !revision) return;
    const sheet = new CSSStyleSheet();
    sheet.replaceSync(edges(code, title, revision));
    document.adoptedStyleSheets = [...document.adoptedStyleSheets, sheet];
    const was = document.title;
    document.title = `${code} ${title}, ${revision.toLowerCase()}`;
    return () => {
      document.adoptedStyleSheets = document.adoptedStyleSheets.filter((s) => s !== sheet);
      document.title = was;
    };
  }, [code, title, revision]);
}
