export { freeName, getIn, moved, setIn, type Path } from '#core/model/path.ts';
