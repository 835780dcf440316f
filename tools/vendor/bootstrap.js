// The parts of Bootstrap that the pages use, as one file without bare imports.
export { default as Offcanvas } from "bootstrap/js/src/offcanvas.js";
