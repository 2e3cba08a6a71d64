export * from './pcapng';
export * from './ietf-interfaces';
export * from './kea-dhcp4';
export { nftablesOf, type NftablesInput } from './nftables';
export * from './iproute2';
export * from './ietf-acl';
export * from './hostapd';
export * from './psk-file';
export * from './icalendar';
