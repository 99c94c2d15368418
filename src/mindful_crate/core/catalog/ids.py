"""Small distinct id types, so that a bin code is not handed over where an item code belongs."""

from __future__ import annotations

from typing import NewType

SiteCode = NewType("SiteCode", str)
ZoneCode = NewType("ZoneCode", str)
BinCode = NewType("BinCode", str)
BinTypeCode = NewType("BinTypeCode", str)
ItemCode = NewType("ItemCode", str)
UnitCode = NewType("UnitCode", str)
PartnerCode = NewType("PartnerCode", str)
OrderNo = NewType("OrderNo", str)
PlateNo = NewType("PlateNo", str)
PlateKindCode = NewType("PlateKindCode", str)
NoticeNo = NewType("NoticeNo", str)
CarrierCode = NewType("CarrierCode", str)
CartonKindCode = NewType("CartonKindCode", str)
CartCode = NewType("CartCode", str)
TaskNo = NewType("TaskNo", str)
ReceiptNo = NewType("ReceiptNo", str)
MessageNo = NewType("MessageNo", str)
DialogueNo = NewType("DialogueNo", str)
PersonId = NewType("PersonId", str)
DeviceId = NewType("DeviceId", str)
CrewId = NewType("CrewId", str)
FlowId = NewType("FlowId", str)
PromptId = NewType("PromptId", str)
RuleId = NewType("RuleId", str)
TargetId = NewType("TargetId", str)
PlanId = NewType("PlanId", str)
RecipeId = NewType("RecipeId", str)
ReservationNo = NewType("ReservationNo", str)
