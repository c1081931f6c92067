<?php

namespace Baggage\Core\Plan;

/** A plan file that cannot be used: names the file, the line and the field. */
final class PlanError extends \RuntimeException
{
    public function __construct(
        string $message,
        public readonly string $planFile,
        public readonly ?int $fileLine = null,
        public readonly ?string $field = null,
    ) {
        parent::__construct(
            $planFile.($fileLine === null ? '' : ", line $fileLine")
                .($field === null || $field === '' ? '' : ", $field").": $message",
        );
    }
}
