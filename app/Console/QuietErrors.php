<?php

namespace App\Console;

use App\Support\Unforeseen;
use Illuminate\Foundation\Exceptions\Handler;
use Symfony\Component\Console\Exception\ExceptionInterface;
use Symfony\Component\Console\Output\ConsoleOutputInterface;
use Throwable;

/** On the command line an error is a line, never a trace: traces and SQL hold a client's rows. */
final class QuietErrors extends Handler
{
    public function renderForConsole($output, Throwable $e): void
    {
        if ($e instanceof ExceptionInterface) {
            parent::renderForConsole($output, $e);

            return;
        }
        ($output instanceof ConsoleOutputInterface ? $output->getErrorOutput() : $output)->writeln(
            Unforeseen::said('Ended', $e),
        );
    }
}
