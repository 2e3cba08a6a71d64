/** UDP ports of the exchange (RFC 7296 §2), and once translation was found on the way (§2.23). */
export const [IKE_PORT, NAT_PORT] = [500, 4500];
/** Seconds between two questions whether the other is there (RFC 7296 §2.4), and how many without an answer end it. */
export const [PACT_ASKS_SECONDS, PACT_LOSSES] = [2, 3];
