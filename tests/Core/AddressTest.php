<?php

namespace Tests\Core;

use Baggage\Core\Reading\Database\Address;
use Baggage\Core\Reading\Database\AddressError;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

/** What may stand in a connection, by RFC 1123 (hosts), RFC 3986 (addresses of services) and the manuals of PDO's drivers. */
final class AddressTest extends TestCase
{
    #[DataProvider('taken')]
    public function test_what_is_taken(string $driver, string $host, string $port, string $database, string $dsn): void
    {
        $address = Address::of($driver, $host, $port, $database);
        self::assertSame($dsn, $driver === 'http' ? $address->host : $address->dsn());
    }

    /** @return iterable<array{string, string, string, string, string}> */
    public static function taken(): iterable
    {
        yield [
            'mysql',
            'db-1.client.example',
            '',
            'legacy',
            'mysql:host=db-1.client.example;port=3306;dbname=legacy;charset=utf8mb4',
        ];
        // PDO_MYSQL takes this word, in any case, for a socket of the machine.
        yield ['mysql', 'LocalHost', '3307', 'legacy', 'mysql:host=127.0.0.1;port=3307;dbname=legacy;charset=utf8mb4'];
        yield ['mysql', '::1', '3306', 'a-b c', 'mysql:host=[::1];port=3306;dbname=a-b c;charset=utf8mb4'];
        yield ['pgsql', '10.1.2.3', '', 'Häfen 2', "pgsql:host=10.1.2.3;port=5432;dbname='Häfen 2';connect_timeout=5"];
        yield ['dblib', 'OLD_SERVER', '', 'yard', 'dblib:host=OLD_SERVER:1433;dbname=yard;charset=UTF-8'];
        yield ['odbc', 'ignored', 'x', 'Old Desk', 'odbc:Old Desk'];
        yield ['http', 'https://desk.example:8443/api/v1/', '', '', 'https://desk.example:8443/api/v1'];
        yield ['http', 'http://[::1]:8700', '', '', 'http://[::1]:8700'];
    }

    #[DataProvider('refused')]
    public function test_what_is_refused(
        string $driver,
        string $host,
        string $port,
        string $database,
        string $part,
    ): void {
        try {
            $taken = Address::of($driver, $host, $port, $database);
            self::fail('taken: '.$taken->dsn().$taken->host);
        } catch (AddressError $e) {
            self::assertSame($part, $e->part);
            self::assertDoesNotMatchRegularExpression('/[\x00-\x1F]/', $e->getMessage());
            self::assertLessThan(400, strlen($e->getMessage()));
        }
    }

    /** @return iterable<array{string, string, string, string, string}> */
    public static function refused(): iterable
    {
        yield ['sqlite', 'x', '', '/etc/passwd', 'driver'];
        $hosts = [
            '',
            'localhost;unix_socket=/run/x.sock',
            'a b',
            '/var/run/postgresql',
            '@abstract',
            'a,b',
            'a:1',
            'a=b',
            "a\n",
            "a\0b",
            '${APP_KEY}',
            '-x',
            'a..b',
            'http://a',
            'user@a',
            'a?b',
            'a/b',
            str_repeat('a', 64),
            str_repeat('a.', 130),
            'ä',
        ];
        foreach (['mysql', 'pgsql', 'dblib'] as $driver) {
            foreach ($hosts as $host) {
                yield [$driver, $host, '1', 'd', 'host'];
            }
            foreach (['0', '65536', '-1', '1;x=y', '1 ', '1e3', "1\n"] as $port) {
                yield [$driver, 'a', $port, 'd', 'port'];
            }
            foreach (
                [
                    '',
                    'a;unix_socket=/x',
                    "a'b",
                    'a=b',
                    'a\\b',
                    "a\nb",
                    'a/b',
                    '../x',
                    ' a',
                    'a ',
                    str_repeat('a', 65),
                    "\xFF",
                ] as $database
            ) {
                yield [$driver, 'a', '1', $database, 'database'];
            }
        }
        foreach (['Driver=/tmp/x.so', 'DSN=a;UID=b', 'a;b', '', '/etc/odbc.ini', 'DRIVER={x}', "a\0"] as $name) {
            yield ['odbc', '', '', $name, 'database'];
        }
        foreach (
            [
                'file:///etc/passwd',
                'ftp://a',
                'http://',
                'http://u:p@a',
                'http://a?b=c',
                'http://a#b',
                'http://a b',
                "http://a\n",
                'http://a:99999',
                'gopher://a',
                'a',
                'http://a\\@b',
                'http:///x',
                'http://-a',
            ] as $url
        ) {
            yield ['http', $url, '', '', 'host'];
        }
    }
}
