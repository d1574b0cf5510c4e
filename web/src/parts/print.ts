// Sheets of paper as files: a drawing in SVG becomes a PDF or a PNG, with the fonts that ship along.
import boldUrl from '@expo-google-fonts/archivo/700Bold/Archivo_700Bold.ttf?url';
import regularUrl from '@expo-google-fonts/archivo/400Regular/Archivo_400Regular.ttf?url';
import { SHEET } from '@plinket/core';

/** Points of a printed sheet per mm that a PNG has: 200 to an inch. */
const DOTS = 200 / 25.4;

/** Bytes as a data URL of a type. */
export function bytesUrl(bytes: ArrayBuffer, type: string): Promise<string> {
  return new Promise((resolve, reject) => {
    const reader = new FileReader();
    reader.onload = () => resolve(reader.result as string);
    reader.onerror = () => reject(new Error('the file cannot be read'));
    reader.readAsDataURL(new Blob([bytes], { type }));
  });
}

/** What lies at an address, as a data URL of a type: the server does not say what a blob is. @throws Error when it is not there */
export async function dataUrl(url: string, type: string): Promise<string> {
  const response = await fetch(url);
  if (!response.ok) throw new Error(`the server answered ${response.status}`);
  return bytesUrl(await response.arrayBuffer(), type);
}
const FONT = 'font/ttf';
const base64 = async (url: string): Promise<string> => (await dataUrl(url, FONT)).split(',')[1]!;

/** A drawn sheet as a PDF: lines and letters stay lines and letters. */
export async function sheetPdf(svg: string): Promise<Blob> {
  const [{ jsPDF }, { svg2pdf }, regular, bold] = await Promise.all([
    import('jspdf'),
    import('svg2pdf.js'),
    base64(regularUrl),
    base64(boldUrl),
  ]);
  const pdf = new jsPDF({ orientation: 'landscape', unit: 'mm', format: 'a4', compress: true });
  for (const [file, data, style] of [
    ['Archivo.ttf', regular, 'normal'],
    ['Archivo-Bold.ttf', bold, 'bold'],
  ] as const) {
    pdf.addFileToVFS(file, data);
    pdf.addFont(file, 'Archivo', style);
  }
  const drawing = new DOMParser().parseFromString(svg, 'image/svg+xml').documentElement;
  await svg2pdf(drawing, pdf, { x: 0, y: 0, width: SHEET.width, height: SHEET.height });
  return pdf.output('blob');
}

/** A drawn sheet as a PNG. @throws Error when the drawing cannot be shown */
export async function sheetPng(svg: string): Promise<Blob> {
  const [regular, bold] = await Promise.all([dataUrl(regularUrl, FONT), dataUrl(boldUrl, FONT)]);
  const face = (url: string, weight: string) => `@font-face{font-family:Archivo;font-weight:${weight};src:url(${url})}`;
  const dressed = svg.replace('</title>', `</title><style>${face(regular, '400')}${face(bold, '700')}</style>`);
  const url = URL.createObjectURL(new Blob([dressed], { type: 'image/svg+xml' }));
  try {
    const image = new Image();
    image.src = url;
    await image.decode();
    const canvas = new OffscreenCanvas(Math.round(SHEET.width * DOTS), Math.round(SHEET.height * DOTS));
    canvas.getContext('2d')!.drawImage(image, 0, 0, canvas.width, canvas.height);
    return await canvas.convertToBlob({ type: 'image/png' });
  } finally {
    URL.revokeObjectURL(url);
  }
}
