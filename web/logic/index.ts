// The parts of the front end that compute, for tests that hold them against Go's.
export { applied, fine } from '@/build/patch'
export { inFull, readDate, readDateTime, writtenDate } from '@/surface/dates'
export { read, written } from '@/surface/numerals'
export { instants, setZone, wallAt } from '@/surface/zone'
export { format } from '@/surface/format'
export { block } from '@/surface/table/pasting'
export { laidOut, session } from './tables'
export { cells } from './cells'
