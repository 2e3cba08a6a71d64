export * from './pcapng';
export * from './ietf-interfaces';
export * from './kea-dhcp4';
export * from './nftables';
export * from './ietf-acl';
export * from './hostapd';
export * from './psk-file';
export * from './icalendar';
