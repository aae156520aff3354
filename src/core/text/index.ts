export { offersAt } from './complete.ts';
export { textFixOf } from './fix.ts';
export { spotAt } from './spot.ts';
