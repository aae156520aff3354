export { offersAt } from './complete.ts';
export { fixOf } from './fix.ts';
export { spotAt } from './spot.ts';
