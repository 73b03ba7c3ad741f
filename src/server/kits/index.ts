/** Kits: sets of campaigns for a product, planned, kept as drafts, and put onto the sheet. */

export { categoriesOf, collectionsOf, pagesOf } from './catalogue.ts';
export { deskOf, dropRecipe, groundsAnswer, saveRecipe } from './desk.ts';
export { kitEdit, kitNew, kitSend, recipeSchema } from './door.ts';
export { dropKit, editKit, kitOf, kitsList, newKit, putOnSheet } from './drafts.ts';
export { readKitsCsv } from './file.ts';
export { keepPicture, pictureOf } from './pictures.ts';
