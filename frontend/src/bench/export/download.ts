export function download(file: { url: string; name: string }): void {
  const link = document.createElement("a");
  link.href = file.url;
  link.download = file.name;
  link.click();
}

export function sizeWords(bytes: number): string {
  return bytes < 1e6
    ? `${Math.max(1, Math.round(bytes / 1000)).toLocaleString("en")} kB`
    : `${(bytes / 1e6).toFixed(1)} MB`;
}
