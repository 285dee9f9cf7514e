/** For what is named by its content. */
export const FOR_EVER = 'public, max-age=31536000, immutable';
