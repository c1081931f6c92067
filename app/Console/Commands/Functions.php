<?php

namespace App\Console\Commands;

use Baggage\Core\Expressions\CatalogueDocument;
use Illuminate\Console\Command;
use Symfony\Component\Console\Output\OutputInterface;

final class Functions extends Command
{
    protected $signature = 'baggage:functions {--json : as data}';

    protected $description = 'List the functions rules may use, with arguments, types, meaning and example';

    public function handle(): int
    {
        $this->output->write($this->option('json')
            ? json_encode(
                CatalogueDocument::data(),
                JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_THROW_ON_ERROR,
            ).PHP_EOL
            : CatalogueDocument::markdown(), false, OutputInterface::OUTPUT_RAW);

        return 0;
    }
}
