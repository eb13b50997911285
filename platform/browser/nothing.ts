/** Stands for modules of Node that a library names and a browser has none of. */
export default {}
