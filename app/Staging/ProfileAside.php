<?php

namespace App\Staging;

use App\Reading\TableOpener;
use Baggage\Core\Profiling\ColumnProfile;
use Baggage\Core\Profiling\DistinctEstimate;
use Baggage\Core\Profiling\TableProfile;
use Baggage\Core\Profiling\ValueBudget;
use Baggage\Core\Reading\Column;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\RowList;

/**
 * Profiles a large file in a process of its own, on another core, while this one stages its rows. Both read the same bytes in the
 * same order, so the row numbers are the same.
 */
final class ProfileAside
{
    private const PARTS = [TableProfile::class, ColumnProfile::class, ValueBudget::class, RowList::class, DistinctEstimate::class, Columns::class, Column::class];

    private function __construct(private ?int $process, private readonly string $answer)
    {
    }

    public static function of(ReaderSettings $settings, string $path): ?self
    {
        if ($settings->connection() !== null || ! is_file($path) || filesize($path) < (int) config('baggage.profile_aside_from') || ! function_exists('pcntl_fork')) {
            return null;
        }
        $answer = tempnam(sys_get_temp_dir(), 'baggage');
        $process = $answer === false ? -1 : pcntl_fork();
        if ($process === 0) {
            self::work($settings, $path, (string) $answer);
        }

        return $process > 0 ? new self($process, (string) $answer) : null;
    }

    private static function work(ReaderSettings $settings, string $path, string $answer): never
    {
        try {
            $table = (new TableOpener)->open($settings, $path);
            $profile = new TableProfile($table->columns());
            $number = 0;
            foreach ($table->rows() as $row) {
                $profile->add(++$number, $row->cells);
            }
            file_put_contents($answer, serialize($profile));
        } catch (\Throwable) {
            // Whatever is wrong with the file, the other process meets it too and says it.
        }
        // Ended without a farewell: the database connections are the other process's.
        posix_kill((int) getmypid(), SIGKILL);
        exit(1);
    }

    /** The profile, once all rows are staged; null when the process did not get that far. */
    public function profile(): ?TableProfile
    {
        if ($this->process !== null) {
            pcntl_waitpid($this->process, $status);
            $this->process = null;
        }
        $profile = unserialize((string) file_get_contents($this->answer), ['allowed_classes' => self::PARTS]);
        unlink($this->answer);

        return $profile instanceof TableProfile ? $profile : null;
    }

    /** Ends it when the rows could not be staged. */
    public function abandon(): void
    {
        if ($this->process !== null) {
            posix_kill($this->process, SIGKILL);
            pcntl_waitpid($this->process, $status);
            $this->process = null;
        }
        @unlink($this->answer);
    }
}
