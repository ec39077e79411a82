/** What stands before a difference: that it came, went, changed or moved. */
export const changeSigns = { added: '+', removed: '−', changed: '~', moved: '>' } as const;
