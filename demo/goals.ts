/** The demo account's goals: 26 % for the account, overrides where a product's margin asks for another. */
export const demoGoals = [
  { scope: 'account', key: '', targetAcos: 0.26 },
  { scope: 'product', key: 'TT-CRK2', targetAcos: 0.22 },
  { scope: 'product', key: 'TT-CRK5', targetAcos: 0.24 },
  { scope: 'product', key: 'TT-PHS2', targetAcos: 0.22 },
  { scope: 'product', key: 'TT-LID4', targetAcos: 0.28 },
];
