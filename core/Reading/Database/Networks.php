<?php

namespace Baggage\Core\Reading\Database;

/** Networks connections may reach: by addresses and their leading bits (RFC 4632, RFC 4291). */
final readonly class Networks
{
    /**
     * @param  list<string>  $never  as 169.254.0.0/16 or fe80::/10
     * @param  list<string>  $only  where any is named, nothing else may be reached
     *
     * @throws \InvalidArgumentException for what is no network
     */
    public function __construct(private array $never, private array $only = [])
    {
        foreach ([...$never, ...$only] as $network) {
            self::refuseUnreadable($network);
        }
    }

    private static function refuseUnreadable(string $network): void
    {
        [$address, $bits] = explode('/', $network.'/');
        $packed = @inet_pton($address);
        if ($packed === false || ($bits !== '' && (! ctype_digit($bits) || (int) $bits > 8 * strlen($packed)))) {
            throw new \InvalidArgumentException("\"$network\" is no network: write 10.0.0.0/8 or fd00::/8.");
        }
    }

    /** @param  string  $ip  an address, of version 4 or 6 */
    public function allow(string $ip): bool
    {
        $packed = self::packed($ip);

        return $packed !== null
            && ! self::isIn($packed, $this->never)
            && ($this->only === [] || self::isIn($packed, $this->only));
    }

    /** @param  list<string>  $networks */
    private static function isIn(string $packed, array $networks): bool
    {
        foreach ($networks as $network) {
            [$address, $bits] = explode('/', $network.'/');
            $of = (string) self::packed($address);
            if (strlen($of) === strlen($packed) && self::alike($packed, $of, $bits === '' ? 8 * strlen($of) : (int) $bits)) {
                return true;
            }
        }

        return false;
    }

    private static function alike(string $a, string $b, int $bits): bool
    {
        $whole = intdiv($bits, 8);
        $rest = $bits % 8;
        $mask = 0xFF << (8 - $rest) & 0xFF;

        return strncmp($a, $b, $whole) === 0 && ($rest === 0 || (ord($a[$whole]) & $mask) === (ord($b[$whole]) & $mask));
    }

    /** Addresses of version 4 inside such of version 6 are those (RFC 4291, 2.5.5; RFC 6052, 2.1): they reach the same machine. */
    private static function packed(string $ip): ?string
    {
        $packed = @inet_pton($ip);
        if ($packed === false) {
            return null;
        }
        $before = [str_repeat("\0", 10)."\xFF\xFF", str_repeat("\0", 12), "\0\x64\xFF\x9B".str_repeat("\0", 8)];
        $isInside = strlen($packed) === 16 && in_array(substr($packed, 0, 12), $before, true)
            && ! in_array($packed, [str_repeat("\0", 16), str_repeat("\0", 15)."\1"], true);

        return $isInside ? substr($packed, 12) : $packed;
    }
}
