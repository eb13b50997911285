/** The package's entry for Node is a script that calls itself a module; its real module stands beside it, untyped. */
declare module 'maxrects-packer/dist/maxrects-packer.mjs' {
  export { MaxRectsPacker } from 'maxrects-packer'
}
