<?php

namespace Baggage\Core\Reading\Database;

/** An address that no connection may be made to; says which part and what it may be. */
final class AddressError extends \InvalidArgumentException
{
    private function __construct(public readonly string $part, string $message)
    {
        parent::__construct($message);
    }

    public static function driver(string $driver): self
    {
        return new self('driver', 'There is no driver "'.self::shown($driver).'".');
    }

    public static function host(string $host): self
    {
        return new self(
            'host',
            $host === ''
                ? 'A host is missing.'
                : '"'.self::shown($host)
                    .'" is not a host: write its name or its IP address alone, without port, path or options.',
        );
    }

    public static function url(string $url): self
    {
        return new self(
            'host',
            '"'.self::shown($url).'" is not the address of a service: write http:// or https:// with a host, '
                .'perhaps a port and a path, without user, password, question mark or fragment.',
        );
    }

    public static function network(string $host): self
    {
        return new self(
            'host',
            'This installation makes no connections to where "'.self::shown($host).'" is. Its administrator says which networks may '
                .'be reached.',
        );
    }

    public static function unknown(string $host): self
    {
        return new self('host', 'There is no host "'.self::shown($host).'": check its name.');
    }

    public static function port(string $port): self
    {
        return new self('port', '"'.self::shown($port).'" is not a port: write a number from 1 to 65535.');
    }

    public static function database(string $database): self
    {
        return new self(
            'database',
            $database === ''
                ? 'A database is missing.'
                : '"'.self::shown($database)
                    .'" is not the name of a database: letters, digits, blanks, points, hyphens, _ and $, '.'up to '
                    .Address::LONGEST_NAME.' characters.',
        );
    }

    public static function odbc(string $name): self
    {
        return new self(
            'database',
            '"'.self::shown($name).'" is not the name of an ODBC source: write the name under which the '
                .'administrator described it in odbc.ini, not a connection string.',
        );
    }

    public static function user(): self
    {
        return new self('username', 'The user name holds control characters.');
    }

    /** A name that only a plan read on the command line may use. */
    public static function noPassword(string $connection, string $variable): self
    {
        return new self(
            'password',
            "The connection \"$connection\" has no password yet: its plan names the variable "
                .self::shown($variable)
                .', which is used only where the plan was read on the command line and the name begins with '
                    .'BAGGAGE_SECRET_. Enter the password.',
        );
    }

    public static function notSet(string $connection, string $variable): self
    {
        return new self(
            'password',
            "The connection \"$connection\" takes its password from the environment, where ".self::shown($variable)
                .' is not set.',
        );
    }

    public static function ownDatabase(): self
    {
        return new self(
            'username',
            'This user can see Baggage\'s own database, which no source and no target may be. '
                .'Give the connection a user of its own, with rights on its own database alone.',
        );
    }

    private static function shown(string $text): string
    {
        return mb_substr(mb_scrub((string) preg_replace('/[\x00-\x1F\x7F]/', '?', $text)), 0, 80);
    }
}
