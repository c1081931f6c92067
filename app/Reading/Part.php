<?php

namespace App\Reading;

use App\Models\Extract;
use Baggage\Core\Reading\ReaderSettings;

/** One table a file holds, as it seems it should be read. */
final readonly class Part
{
    /**
     * @param  string  $name  also the name its extract gets unless somebody states another
     * @param  array<string, string>  $reasons  setting → why it was guessed so
     * @param  string|null  $refused  why it cannot be read, for a member of an archive
     */
    public function __construct(
        public string $name,
        public ?ReaderSettings $settings,
        public array $reasons = [],
        public ?string $refused = null,
    ) {
    }

    /** Whether it is of the kind the extract was read from. */
    public function isLike(Extract $extract): bool
    {
        return $this->settings !== null && $extract->settings()->format::kind() === $this->settings->format::kind();
    }
}
