<?php

namespace App\Queueing;

use Illuminate\Database\DatabaseManager;
use Illuminate\Queue\Connectors\ConnectorInterface;

final readonly class FairConnector implements ConnectorInterface
{
    public function __construct(private DatabaseManager $connections)
    {
    }

    /** @param  array<string, mixed>  $config */
    public function connect(array $config): FairQueue
    {
        return new FairQueue(
            $this->connections->connection(),
            $config['table'],
            $config['queue'],
            $config['retry_after'],
            $config['after_commit'],
        );
    }
}
