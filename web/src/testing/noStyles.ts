/** Stands for style sheets in component tests. */
export default {};
