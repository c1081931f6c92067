<?php

namespace App\Console\Commands;

use App\Models\Migration;
use App\Plans\PlanExporter;
use Baggage\Core\Plan\PlanWriter;
use Illuminate\Console\Command;

final class PlanExport extends Command
{
    protected $signature = 'baggage:export {migration : its name} {--migration= : its number, where several have the name}';

    protected $description = 'Write a migration as a plan file to standard output';

    public function handle(PlanExporter $exporter, PlanWriter $writer): int
    {
        $which = $this->option('migration');
        try {
            $migration = Migration::named((string) $this->argument('migration'), $which === null ? null : (int) $which);
        } catch (\DomainException $e) {
            fwrite(STDERR, $e->getMessage().PHP_EOL);

            return 2;
        }
        if ($migration === null) {
            fwrite(STDERR, "There is no migration \"{$this->argument('migration')}\".".PHP_EOL);

            return 2;
        }
        $this->output->write($writer->write($exporter->export($migration)));

        return 0;
    }
}
