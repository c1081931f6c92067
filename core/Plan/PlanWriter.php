<?php

namespace Baggage\Core\Plan;

use Symfony\Component\Yaml\Yaml;

/** Writes a plan as YAML, the same plan always as the same bytes. */
final class PlanWriter
{
    /** @param  array<string, mixed>  $plan as the schema describes it */
    public function write(array $plan): string
    {
        return Yaml::dump(
            $plan,
            8,
            2,
            Yaml::DUMP_OBJECT_AS_MAP | Yaml::DUMP_EMPTY_ARRAY_AS_SEQUENCE | Yaml::DUMP_MULTI_LINE_LITERAL_BLOCK,
        );
    }
}
