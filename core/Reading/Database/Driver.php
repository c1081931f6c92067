<?php

namespace Baggage\Core\Reading\Database;

/** What a connection speaks. */
enum Driver: string
{
    case Mysql = 'mysql';
    case Pgsql = 'pgsql';
    case SqlServer = 'dblib';
    case Odbc = 'odbc';
    case Http = 'http';

    public function label(): string
    {
        return match ($this) {
            self::Mysql => 'MariaDB or MySQL',
            self::Pgsql => 'PostgreSQL',
            self::SqlServer => 'SQL Server',
            self::Odbc => 'ODBC',
            self::Http => 'a service, JSON over HTTP',
        };
    }

    /** Whether its server can be told that a session only reads. */
    public function canBeOpenedForReading(): bool
    {
        return $this === self::Mysql || $this === self::Pgsql;
    }

    /** The Debian package that brings it. */
    public function package(): string
    {
        return match ($this) {
            self::Mysql => 'php8.2-mysql',
            self::Pgsql => 'php8.2-pgsql',
            self::SqlServer => 'php8.2-sybase',
            self::Odbc => 'php8.2-odbc',
            self::Http => 'php8.2-curl',
        };
    }

    /** The port its servers answer at when none is named (IANA, Service Name and Transport Protocol Port Number Registry). */
    public function port(): ?int
    {
        return match ($this) {
            self::Mysql => 3306,
            self::Pgsql => 5432,
            self::SqlServer => 1433,
            self::Odbc, self::Http => null,
        };
    }
}
