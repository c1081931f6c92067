<?php

namespace Baggage\Core\Rejects;

/** Why a row is not loaded; rows with equal causes of one load form one group. */
final readonly class Cause
{
    /**
     * @param  string  $code  groups alike failures, e.g. "too_long"
     * @param  string|null  $field  target field, null when the whole row is meant
     * @param  string|null  $value  the offending value, or the key of the parent a held row waits for
     * @param  string|null  $parentEntity  for held rows and orphans
     * @param  string|null  $parentSource  for held rows and orphans
     */
    public function __construct(
        public Stage $stage,
        public string $code,
        public ?string $field,
        public ?string $value,
        public string $message,
        public ?string $parentEntity = null,
        public ?string $parentSource = null,
    ) {
    }

    /** Equal for equal causes. */
    public function fingerprint(): string
    {
        return implode("\x1E", [$this->stage->value, $this->code, $this->field, $this->value, $this->parentEntity, $this->parentSource, $this->message]);
    }
}
