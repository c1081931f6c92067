<?php

namespace Tests\Feature;

use App\Models\Target as TargetModel;
use App\Targets\Ports;
use App\Targets\SchemaReader;
use App\Targets\TargetLink;
use Baggage\Core\Loading\Target;
use Baggage\Core\Loading\TargetRecords;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Schema;
use Tests\Support\WhatATargetMustDo;
use Tests\TestCase;

/** The MariaDB target, held to what every target must do. */
final class SqlTargetTest extends TestCase
{
    use WhatATargetMustDo;

    private Ports $ports;

    private Schema $schema;

    protected function setUp(): void
    {
        parent::setUp();
        $database = str_replace('harbour_', 'other_', (string) getenv('HARBOUR_OFFICE_DATABASE'));
        $model = new TargetModel([
            'name' => 'suite',
            'host' => '127.0.0.1',
            'port' => getenv('DB_PORT'),
            'database' => $database,
            'username' => 'harbour',
            'password' => (string) getenv('HARBOUR_OFFICE_PASSWORD'),
        ]);
        $pdo = ($link = new TargetLink($model))->pdo();
        $pdo->exec('DROP TABLE IF EXISTS suite_berth, suite_harbour, baggage_receipts, baggage_marks');
        $pdo->exec('CREATE TABLE suite_harbour (id INT AUTO_INCREMENT PRIMARY KEY, code VARCHAR(8) NOT NULL UNIQUE, '
            .'name VARCHAR(60) NOT NULL) ENGINE=InnoDB');
        $pdo->exec('CREATE TABLE suite_berth (id INT AUTO_INCREMENT PRIMARY KEY, code VARCHAR(8) NOT NULL, harbour INT NOT NULL, '
            .'FOREIGN KEY (harbour) REFERENCES suite_harbour (id)) ENGINE=InnoDB');
        $this->schema = (new SchemaReader)->read($link);
        $this->ports = Ports::of($model);
    }

    protected function port(): Target
    {
        return $this->ports->target;
    }

    protected function records(): TargetRecords
    {
        return $this->ports->records;
    }

    protected function harbour(): Entity
    {
        return $this->schema->entity('suite_harbour');
    }

    protected function berth(): Entity
    {
        return $this->schema->entity('suite_berth');
    }
}
