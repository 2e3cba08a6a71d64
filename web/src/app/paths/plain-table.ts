/** How tables of what becomes of something look: lines, and nothing to press. */
export const PLAIN_TABLE = `
table {
  border-collapse: collapse;
  width: calc(100% - 28px);
  margin: 0 14px;
}
th,
td {
  text-align: left;
  padding: 4px 10px 4px 0;
  border-top: 1px solid var(--rule);
  font-weight: 400;
  vertical-align: baseline;
}
th {
  color: var(--soft);
  font-size: 12px;
  border-top: none;
}
.bad {
  color: var(--bad);
}
@media (max-width: 720px) {
  table {
    display: block;
    overflow-x: auto;
  }
  td {
    min-width: 84px;
  }
  td.long {
    min-width: 210px;
  }
}
`;
