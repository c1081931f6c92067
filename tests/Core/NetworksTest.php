<?php

namespace Tests\Core;

use Baggage\Core\Reading\Database\Networks;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** Which addresses lie in which networks; examples of RFC 4632, 3.1, RFC 3927, RFC 4291, 2.2 and 2.5.5, RFC 6052, 2.4. */
final class NetworksTest extends TestCase
{
    /** @return iterable<array{string, string, bool}> network, address, whether it lies in it */
    public static function addresses(): iterable
    {
        yield ['192.168.99.0/24', '192.168.99.255', true];
        yield ['192.168.99.0/24', '192.168.98.255', false];
        yield ['10.0.0.0/9', '10.127.255.255', true];
        yield ['10.0.0.0/9', '10.128.0.0', false];
        yield ['0.0.0.0/0', '203.0.113.9', true];
        yield ['203.0.113.9', '203.0.113.9', true];
        yield ['203.0.113.9', '203.0.113.8', false];
        yield ['169.254.0.0/16', '::ffff:169.254.169.254', true];
        yield ['169.254.0.0/16', '::ffff:a9fe:a9fe', true];
        yield ['169.254.0.0/16', '::169.254.1.1', true];
        yield ['192.0.2.0/24', '64:ff9b::192.0.2.33', true];
        yield ['fe80::/10', 'febf::1', true];
        yield ['fe80::/10', 'fec0::1', false];
        yield ['2001:db8::/32', '2001:DB8:0:0:8:800:200C:417A', true];
        yield ['::1/128', '::1', true];
        yield ['::/128', '::', true];
        yield ['0.0.0.0/8', '::1', false];
    }

    #[DataProvider('addresses')]
    public function test_an_address_lies_in_a_network(string $network, string $ip, bool $is): void
    {
        self::assertSame(! $is, (new Networks([$network]))->allow($ip));
        self::assertSame($is, (new Networks([], [$network]))->allow($ip));
        self::assertFalse((new Networks([$network], [$network]))->allow($ip), 'what may never be reached is not reached by another word');
    }

    public function test_what_is_none_is_refused(): void
    {
        self::assertFalse((new Networks([]))->allow('localhost'));
        foreach (['10.0.0.0/33', 'fe80::/129', 'here', '10.0.0/8', '10.0.0.0/x', ''] as $network) {
            try {
                new Networks([$network]);
                self::fail($network);
            } catch (\InvalidArgumentException $e) {
                self::assertStringContainsString('is no network', $e->getMessage());
            }
        }
    }
}
