/** Of whom a percent column speaks. */
export type Base = 'answered' | 'everyone'
