/** About how many answers of a list are shown at once, and how many values a number may have that is not
 * only described. */
export const mostShown = 12
export const mostValues = 14
