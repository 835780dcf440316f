// The D3 modules that the charts use, as one file without bare imports.
export { axisBottom, axisLeft } from "d3-axis";
export { scaleLinear, scaleBand } from "d3-scale";
export { select, selectAll } from "d3-selection";
export { line, curveStepAfter } from "d3-shape";
