<?php

namespace App\Reading\Database;

use Baggage\Core\Reading\Database\Address;
use Baggage\Core\Reading\Database\AddressError;
use Baggage\Core\Reading\Database\Networks;

/** Where connections may go. A name is looked up once, and what it was found to be is gone to, so that it cannot be another then. */
final class Reach
{
    /** @throws AddressError where the network is not one that may be reached, or the name is none */
    public static function pinned(Address $address): Address
    {
        return $address->host === '' ? $address : $address->at(self::ip($address->host, $address->port));
    }

    /**
     * @param  string  $host  a name, or an address
     *
     * @throws AddressError
     */
    public static function ip(string $host, ?int $port): string
    {
        $found = self::found($host);
        $networks = new Networks(config('baggage.networks.never'), config('baggage.networks.only'));
        foreach ($found as $ip) {
            // One word for whatever may not be reached, whether something is there or not.
            if (! $networks->allow($ip) || self::isOurs($ip, $port)) {
                throw AddressError::network($host);
            }
        }

        return $found[0];
    }

    /** @return non-empty-list<string> */
    private static function found(string $host): array
    {
        if (filter_var($host, FILTER_VALIDATE_IP) !== false) {
            return [$host];
        }
        $found = gethostbynamel($host) ?: array_column(@dns_get_record($host, DNS_AAAA) ?: [], 'ipv6');

        return $found ?: throw AddressError::unknown($host);
    }

    /** The port Baggage itself is served at, under any address of this machine. */
    private static function isOurs(string $ip, ?int $port): bool
    {
        if ($port === null || ! in_array($port, config('baggage.networks.own_ports'), true)) {
            return false;
        }
        $own = ['127.0.0.1', '::1', '0.0.0.0', '::'];
        foreach (net_get_interfaces() ?: [] as $interface) {
            array_push($own, ...array_column($interface['unicast'] ?? [], 'address'));
        }

        return in_array($ip, $own, true) || str_starts_with($ip, '127.');
    }
}
