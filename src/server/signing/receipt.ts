/** How long after release the copy can still be fetched through the receipt. */
export const receiptDays = 30;
