export function download(file: { url: string; name: string }): void {
  const link = document.createElement("a");
  link.href = file.url;
  link.download = file.name;
  link.click();
}
