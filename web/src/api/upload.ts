import { ProblemError } from './client'

const partSize = 1 << 20

/** Sends a file piece by piece; a piece that was lost on the way is sent again. */
export async function sendParts<T>(
  file: File,
  send: (part: number, piece: Blob) => Promise<T>,
  told: (sent: number) => void,
): Promise<T | undefined> {
  let answer: T | undefined
  for (let part = 0; part * partSize < file.size; part++) {
    const piece = file.slice(part * partSize, (part + 1) * partSize)
    answer = await again(() => send(part, piece))
    told(piece.size)
  }
  return answer
}

async function again<T>(work: () => Promise<T>): Promise<T> {
  for (let left = 4; ; left--) {
    try {
      return await work()
    } catch (error) {
      if (!left || (error instanceof ProblemError && error.problem.status)) throw error
      await new Promise((done) => setTimeout(done, 1000 * (5 - left)))
    }
  }
}
