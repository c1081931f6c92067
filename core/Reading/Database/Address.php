<?php

namespace Baggage\Core\Reading\Database;

/**
 * Where a database or service answers. What is in it can be put into a connection as it is: a host that is reached over TCP, a
 * port, the plain name of a database, of an ODBC source described on this machine, or the address of a service.
 */
final readonly class Address
{
    public const LONGEST_NAME = 64;

    private function __construct(
        public Driver $driver,
        public string $host,
        public ?int $port,
        public string $database,
        private ?string $ip = null,
    ) {
    }

    /**
     * @param  string  $host  of a service its address, http:// or https:// included
     * @param  string  $port  empty for the driver's own
     * @param  string  $database  of an ODBC source its name; of a service nothing
     *
     * @throws AddressError
     */
    public static function of(string $driver, string $host, string $port, string $database): self
    {
        $known = Driver::tryFrom($driver) ?? throw AddressError::driver($driver);

        return match ($known) {
            Driver::Http => new self($known, self::url($host), null, ''),
            Driver::Odbc => new self($known, '', null, self::source($database)),
            default => new self(
                $known,
                self::host($host),
                self::portNumber($port) ?? $known->port(),
                self::database($database),
            ),
        };
    }

    /** The same, at the address its host was found to have. */
    public function at(string $ip): self
    {
        return new self($this->driver, $this->host, $this->port, $this->database, $ip);
    }

    /** The data source name for PDO; of a service none. */
    public function dsn(): string
    {
        return match ($this->driver) {
            Driver::Mysql => "mysql:host={$this->tcp()};port=$this->port;dbname=$this->database;charset=utf8mb4",
            Driver::Pgsql => "pgsql:host=$this->host;".($this->ip === null ? '' : "hostaddr=$this->ip;")
                ."port=$this->port;dbname='$this->database';connect_timeout=5",
            Driver::SqlServer => 'dblib:host='.($this->ip ?? $this->host).":$this->port"
                .($this->database === '' ? '' : ";dbname=$this->database").';charset=UTF-8',
            Driver::Odbc => "odbc:$this->database",
            Driver::Http => '',
        };
    }

    /** The same server, no database chosen. */
    public function withoutDatabase(): self
    {
        return new self($this->driver, $this->host, $this->port, '', $this->ip);
    }

    /** The client library takes "localhost" for a socket of this machine. */
    private function tcp(): string
    {
        $host = $this->ip ?? (strtolower($this->host) === 'localhost' ? '127.0.0.1' : $this->host);

        return str_contains($host, ':') ? "[$host]" : $host;
    }

    private static function host(string $host): string
    {
        // RFC 1123, section 2.1: letters, digits, hyphens and points; names in use also hold underscores.
        $name = preg_match(
            '/^(?=.{1,253}$)[a-z0-9_](?:[a-z0-9_-]{0,61}[a-z0-9_])?(?:\.[a-z0-9_](?:[a-z0-9_-]{0,61}[a-z0-9_])?)*\.?$/Di',
            $host,
        );

        return $name === 1 || filter_var($host, FILTER_VALIDATE_IP) !== false ? $host : throw AddressError::host($host);
    }

    private static function portNumber(string $port): ?int
    {
        if ($port === '') {
            return null;
        }

        return preg_match('/^[1-9]\d{0,4}$/D', $port) === 1 && (int) $port <= 65_535
            ? (int) $port
            : throw AddressError::port($port);
    }

    private static function database(string $name): string
    {
        return preg_match('/^[\p{L}\p{N}_$](?:[\p{L}\p{N}_$ .-]{0,62}[\p{L}\p{N}_$.-])?$/Du', $name) === 1
            ? $name
            : throw AddressError::database($name);
    }

    private static function source(string $name): string
    {
        return preg_match('/^[A-Za-z0-9_][A-Za-z0-9_ .-]{0,63}$/D', $name) === 1
            ? $name
            : throw AddressError::odbc($name);
    }

    private static function url(string $url): string
    {
        $parts = preg_match('~^https?://[\x21-\x7E]+$~Di', $url) === 1 && strpbrk($url, '\\"<>^`{|}') === false
            ? parse_url($url)
            : false;
        if ($parts === false || array_diff(array_keys($parts), ['scheme', 'host', 'port', 'path']) !== []) {
            throw AddressError::url($url);
        }
        $host = $parts['host'] ?? '';
        try {
            self::host(str_starts_with($host, '[') ? trim($host, '[]') : $host);
        } catch (AddressError) {
            throw AddressError::url($url);
        }

        return rtrim($url, '/');
    }
}
