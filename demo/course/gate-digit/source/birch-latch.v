// A case for each digit.
module top(input clk, input key, output reg [6:0] seg, output lamp);
  reg [22:0] pause = 0;
  reg [3:0] value = 0;
  always @(posedge clk)
    if (!key) begin
      pause <= 0;
      value <= 0;
    end else if (pause == 4_799_999) begin
      pause <= 0;
      value <= value == 9 ? 0 : value + 1;
    end else
      pause <= pause + 1;
  always @* case (value)
    0: seg = 7'h3f; 1: seg = 7'h06; 2: seg = 7'h5b; 3: seg = 7'h4f; 5: seg = 7'h6d;
    6: seg = 7'h7d; 7: seg = 7'h07; 8: seg = 7'h7f; 9: seg = 7'h6f;
  endcase
  assign lamp = value == 9;
endmodule
