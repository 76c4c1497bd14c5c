/** Saves a drawing of the page as a file. */
export function downloadSvg(inside: HTMLElement | null, name: string): void {
  const svg = inside?.querySelector("svg");
  if (!svg) {
    return;
  }
  const copy = svg.cloneNode(true) as SVGElement;
  copy.setAttribute("xmlns", "http://www.w3.org/2000/svg");
  download(copy.outerHTML, "image/svg+xml", name);
}

/** Saves rows as a file of comma-separated values; what holds a comma or a quote is quoted. */
export function downloadCsv(rows: (string | number)[][], name: string): void {
  const field = (value: string | number) => {
    const plain = String(value);
    return /[",\n]/.test(plain) ? `"${plain.replaceAll('"', '""')}"` : plain;
  };
  download(
    rows.map((row) => row.map(field).join(",")).join("\n") + "\n",
    "text/csv",
    name,
  );
}

function download(content: string, type: string, name: string): void {
  const link = document.createElement("a");
  link.href = URL.createObjectURL(new Blob([content], { type }));
  link.download = name;
  link.click();
  URL.revokeObjectURL(link.href);
}
