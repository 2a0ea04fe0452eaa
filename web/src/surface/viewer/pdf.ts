import { getDocument, GlobalWorkerOptions, type PDFDocumentProxy } from 'pdfjs-dist'
import worker from 'pdfjs-dist/build/pdf.worker.min.mjs?url'

GlobalWorkerOptions.workerSrc = worker

/** Opens a PDF. Nothing in it runs, and nothing is fetched for it. */
export function openPdf(data: ArrayBuffer): Promise<PDFDocumentProxy> {
  return getDocument({
    data: new Uint8Array(data),
    enableXfa: false,
    isEvalSupported: false,
    useWasm: false,
    useSystemFonts: true,
  }).promise
}

/** A place in the text of a page: in which of its pieces, before which letter. */
interface Place {
  piece: number
  letter: number
}

/** Where a text is found. */
export interface Found {
  page: number
  from: Place
  to: Place
}

/** The pieces of text on a page, in their order. */
export async function textOf(pdf: PDFDocumentProxy, page: number): Promise<string[]> {
  const { items } = await (await pdf.getPage(page)).getTextContent()
  return items.flatMap((i) => ('str' in i ? [i.str] : []))
}

/** Where a text stands in the pieces of a page, capitals or not, over several pieces too. */
export function find(pieces: string[], text: string, page: number): Found[] {
  const wanted = text.trim().toLowerCase()
  if (!wanted) return []
  const starts: number[] = []
  let whole = ''
  for (const piece of pieces) {
    starts.push(whole.length)
    whole += piece.toLowerCase()
  }
  const at = (place: number, end: number): Place => {
    const piece = starts.findLastIndex((s) => s <= place)
    return { piece, letter: place - starts[piece] + end }
  }
  const out: Found[] = []
  for (let i = whole.indexOf(wanted); i >= 0; i = whole.indexOf(wanted, i + wanted.length))
    out.push({ page, from: at(i, 0), to: at(i + wanted.length - 1, 1) })
  return out
}
