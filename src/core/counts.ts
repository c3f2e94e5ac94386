/** As far as lists are counted: what is beyond it is said to be more. */
export const moreThan = 1000;
