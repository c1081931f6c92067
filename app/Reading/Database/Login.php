<?php

namespace App\Reading\Database;

use App\Models\Connection;
use App\Models\Target;
use App\Support\Environment;
use Baggage\Core\Reading\Database\Address;
use Baggage\Core\Reading\Database\AddressError;
use Baggage\Core\Reading\Database\Driver;
use PDO;
use PDOException;

/**
 * Who asks where: the one way from a described connection, of a source or of a target, to an opened one. What the environment
 * filled in is said by its name.
 */
final readonly class Login
{
    /** @param  array<string, string>  $named  what stands in the address or user → how messages say it */
    private function __construct(
        public Address $address,
        public string $user,
        private string $secret,
        private array $named,
    ) {
    }

    /** @throws AddressError */
    public static function through(Connection $c): self
    {
        return self::of($c, $c->driver->value);
    }

    /** @throws AddressError */
    public static function into(Target $t): self
    {
        return self::of($t, Driver::Mysql->value);
    }

    private static function of(Connection|Target $described, string $driver): self
    {
        $written = array_map(strval(...), $described->only(['host', 'port', 'database', 'username']));
        $filled = $described->from_command_line ? array_map(Environment::fill(...), $written) : $written;
        $named = [];
        foreach ($written as $part => $text) {
            if ($filled[$part] !== $text && $filled[$part] !== '') {
                $named[$filled[$part]] = Environment::named($text);
            }
        }
        $address = Address::of($driver, $filled['host'], $filled['port'], $filled['database']);
        if (preg_match('/[\x00-\x1F\x7F]/', $filled['username']) === 1) {
            throw AddressError::user();
        }

        return new self($address, $filled['username'], self::secret($described), $named);
    }

    /** @throws AddressError where a plan read on a screen names it, or nothing is set */
    private static function secret(Connection|Target $described): string
    {
        if ($described->password !== null || $described->password_env === null) {
            return (string) $described->password;
        }
        if (! $described->from_command_line || ! Environment::allows($described->password_env)) {
            throw AddressError::noPassword($described->name, $described->password_env);
        }

        return Environment::get($described->password_env)
            ?? throw AddressError::notSet($described->name, $described->password_env);
    }

    /**
     * @param  array<int, mixed>  $options
     *
     * @throws PDOException|AddressError
     */
    public function open(array $options, ?Address $address = null): PDO
    {
        if (config('baggage.apart.on') && ! app()->runningInConsole()) {
            throw new \LogicException('A page opens no foreign database itself: it would wait for it.');
        }
        $pdo = new PDO(
            Reach::pinned($address ?? $this->address)->dsn(),
            $this->user,
            $this->secret,
            $options + [
                PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
                PDO::ATTR_TIMEOUT => 5,
                PDO::ATTR_STRINGIFY_FETCHES => true,
            ],
        );
        if ($this->address->driver === Driver::Mysql) {
            OwnDatabase::refuse($pdo);
        }

        return $pdo;
    }

    /** The header lines a service wants. */
    public function headers(): string
    {
        return $this->secret;
    }

    /** A part of it, or a driver's message, as it may be printed. */
    public function said(string|int|null $text): string
    {
        return $this->named === [] ? (string) $text : strtr((string) $text, $this->named);
    }
}
