export { offersAt } from './complete.ts';
export { textFixOf } from './fix.ts';
export { pathOfLine, spotAt } from './spot.ts';
