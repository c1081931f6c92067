<?php

namespace App\Reading;

use App\Models\Extract;
use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\ReaderSettings;

/**
 * One table a file holds, as it seems it should be read.
 *
 * @phpstan-type PartArray array{
 *     name: string, settings: array<string, mixed>|null, reasons: array<string, string>, refused: string|null, bytes?: int|null,
 * }
 */
final readonly class Part
{
    /**
     * @param  string  $name  also the name its extract gets unless somebody states another
     * @param  array<string, string>  $reasons  setting → why it was guessed so
     * @param  string|null  $refused  why it cannot be read, for a member of an archive
     * @param  int|null  $bytes  there are to read for it, as far as that is known
     */
    public function __construct(
        public string $name,
        public ?ReaderSettings $settings,
        public array $reasons = [],
        public ?string $refused = null,
        public ?int $bytes = null,
    ) {
    }

    /** @return PartArray */
    public function toArray(): array
    {
        return [
            'name' => $this->name,
            'settings' => $this->settings?->toArray(),
            'reasons' => $this->reasons,
            'refused' => $this->refused,
            'bytes' => $this->bytes,
        ];
    }

    /** @param  PartArray  $is */
    public static function fromArray(array $is): self
    {
        return new self(
            $is['name'],
            $is['settings'] === null ? null : Formats::settings($is['settings']),
            $is['reasons'],
            $is['refused'],
            $is['bytes'] ?? null,
        );
    }

    public function sized(int $bytes): self
    {
        return new self($this->name, $this->settings, $this->reasons, $this->refused, $bytes);
    }

    /** Whether it is of the kind the extract was read from. */
    public function isLike(Extract $extract): bool
    {
        return $this->settings !== null && $extract->settings()->format::kind() === $this->settings->format::kind();
    }
}
