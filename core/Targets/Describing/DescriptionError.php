<?php

namespace Baggage\Core\Targets\Describing;

/** A description of a target that cannot be understood: says where and what to do. */
final class DescriptionError extends \RuntimeException
{
}
