<?php

namespace Standins;

/**
 * A small stand-in for a retired service that hands out JSON over HTTP, to be run by "php -S 127.0.0.1:PORT standins/old-desk.php".
 * It pages by number, by link and by cursor, wants a key in a header, and fails once where it is asked to.
 */
final class OldDesk
{
    public const KEY = 'harbour-desk';

    private const TICKETS = 137;

    /**
     * @param  array<string, mixed>  $query
     * @param  array<string, string>  $headers  small letters → value
     * @return array{int, list<string>, string} status, headers, body
     */
    public static function answer(string $path, array $query, array $headers, string $address, string $memory): array
    {
        if (($headers['x-desk-key'] ?? '') !== self::KEY) {
            return [401, [], '{"error":"no key"}'];
        }
        if ($path === '/broken') {
            return [200, [], '{"tickets":[{"no":1},'];
        }
        if ($path === '/page') {
            return [200, ['Content-Type: text/html'], '<html>Log in</html>'];
        }
        if ($path === '/shaky' && ! is_file($memory)) {
            touch($memory);

            return [503, ['Retry-After: 0'], ''];
        }
        $size = max(1, min(50, (int) ($query['size'] ?? 25)));
        $from = match ($path) {
            '/numbered', '/shaky' => (max(1, (int) ($query['page'] ?? 1)) - 1) * $size,
            '/linked' => max(0, (int) ($query['from'] ?? 0)),
            '/cursor' => (int) base64_decode((string) ($query['after'] ?? '')),
            default => -1,
        };
        if ($from < 0) {
            return [404, [], '{"error":"nothing here"}'];
        }
        $tickets = [];
        for ($i = $from + 1; $i <= min(self::TICKETS, $from + $size); $i++) {
            $tickets[] = [
                'no' => $i,
                'opened' => sprintf('2019-%02d-%02d', ($i % 12) + 1, ($i % 28) + 1),
                'berth' => ['harbour' => ['INV', 'ORR', 'PHO'][$i % 3], 'slip' => sprintf('%03d', $i)],
                'cost' => $i / 4,
                'notes' => $i % 5 === 0 ? ['seen', 'paid'] : [],
            ];
        }
        $next = $from + $size < self::TICKETS ? $from + $size : null;
        $body = match ($path) {
            '/cursor' => [
                'data' => ['tickets' => $tickets],
                'next' => $next === null ? null : base64_encode((string) $next),
            ],
            default => ['tickets' => $tickets, 'total' => self::TICKETS],
        };
        $link
            = $path === '/linked' && $next !== null
                ? ["Link: <$address/linked?from=$next&size=$size>; rel=\"next\", <$address/linked>; rel=\"first\""]
                : [];

        return [200, ['Content-Type: application/json', ...$link], json_encode($body, JSON_THROW_ON_ERROR)];
    }
}
