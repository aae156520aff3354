export { offersAt, schemasAt, type Offer, type Offers } from './complete.ts';
export { fixOf, type Fix } from './fix.ts';
export { spotAt, type Spot } from './spot.ts';
